import { useState } from 'react'
import { type Funnel, stepsOf } from '@/core/engine/funnel'
import css from './Plan.module.css'

/** How many securities came through each clause since it began, and which were stopped where. */
export function FunnelLine({ funnel, acts }: { funnel: Funnel; acts: boolean }) {
  const [open, setOpen] = useState<string>()
  const { looked, steps, ordered } = stepsOf(funnel)
  if (looked === 0) return <p className="soft">It has looked at nothing yet.</p>
  // Clauses that stop nobody say nothing.
  const telling = steps.filter(({ stopped }) => stopped.length > 0)
  const shown = telling.find(({ clause }) => clause === open)
  return (
    <section aria-label="How far they came">
      <p className={css.funnel}>
        <span>{looked} looked at</span>
        {telling.map(({ clause, passed, stopped }) => (
          <span key={clause}>
            →{' '}
            <button
              type="button"
              aria-expanded={clause === open}
              onClick={() => setOpen(clause === open ? undefined : clause)}
            >
              {passed} passed {clause}
            </button>{' '}
            <span className="soft">({stopped.length} stopped)</span>
          </span>
        ))}
        <span>
          → {ordered} {acts ? 'ordered' : 'would be ordered'}
        </span>
      </p>
      {shown && (
        <ul className={css.changes} aria-label={`Stopped by ${shown.clause}`}>
          {shown.stopped.map(({ symbol, why }) => (
            <li key={symbol}>
              <b>{symbol}</b> {why}
            </li>
          ))}
        </ul>
      )}
    </section>
  )
}
