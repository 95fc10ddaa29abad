import { type Check } from '@/core/orders/checks'
import { VerdictMark } from '../shell/VerdictMark'
import css from './Ticket.module.css'

const RANK = { fails: 0, unknown: 1, holds: 2 }

/** The checks of a dry run, each with why it passes, or what mends it; those that fail first. */
export function Checks({ checks }: { checks: readonly Check[] }) {
  return (
    <ul className={css.checks} aria-label="Checks">
      {checks
        .toSorted((a, b) => RANK[a.verdict] - RANK[b.verdict])
        .map((check, i) => (
          <li key={`${check.code} ${i}`}>
            <VerdictMark verdict={check.verdict} />
            <span>
              {check.sentence} {check.mend && <strong>{check.mend}</strong>}
            </span>
          </li>
        ))}
    </ul>
  )
}
