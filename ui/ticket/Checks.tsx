import { type Check } from '@/core/orders/model'
import { VerdictMark } from '../shell/VerdictMark'
import css from './Ticket.module.css'

/** The checks of a dry run, each with why it passes, or what mends it. */
export function Checks({ checks }: { checks: readonly Check[] }) {
  return (
    <ul className={css.checks} aria-label="Checks">
      {checks.map((check) => (
        <li key={check.code}>
          <VerdictMark verdict={check.verdict} />
          <span>
            {check.sentence} {check.mend && <strong>{check.mend}</strong>}
          </span>
        </li>
      ))}
    </ul>
  )
}
