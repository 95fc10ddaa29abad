import { useState } from 'react'
import { writeCsv } from '@/core/formats/csv'
import { type Plan } from '@/core/plans/document'
import { EVENT_COLUMNS, eventsOf } from '@/core/plans/eventList'
import { type DatedEvent } from '@/core/plans/seen'
import css from './Plan.module.css'

/** The events that a plan looks at, as lines of CSV: a list that the trader keeps, or a file put in. */
export function EventsPart({ plan, change }: { plan: Plan; change(plan: Plan): void }) {
  const events = plan.events ?? []
  const [typed, setTyped] = useState<string>()
  const [wrong, setWrong] = useState<string>()
  const text = typed ?? textOf(events)
  const take = (next: string) => {
    const read = eventsOf(next)
    if ('wrong' in read) return setWrong(read.wrong)
    setWrong(undefined)
    setTyped(undefined)
    change({ ...plan, events: read.events })
  }
  return (
    <details className={css.between}>
      <summary>
        {events.length} {events.length === 1 ? 'event' : 'events'} in its list
      </summary>
      <textarea
        aria-label="Events"
        className={css.events}
        rows={Math.min(8, Math.max(3, events.length + 2))}
        value={text}
        spellCheck={false}
        onChange={(e) => setTyped(e.currentTarget.value)}
        onBlur={() => typed !== undefined && take(typed)}
      />
      {wrong && (
        <p role="alert" className="refusal">
          {wrong}
        </p>
      )}
      <label className="soft" style={{ cursor: 'pointer' }}>
        from a CSV file
        <input
          type="file"
          accept=".csv,.txt"
          className="visually-hidden"
          onChange={(e) => {
            const file = e.currentTarget.files?.[0]
            if (file) void file.text().then(take)
          }}
        />
      </label>
    </details>
  )
}

const textOf = (events: readonly DatedEvent[]): string =>
  writeCsv(
    EVENT_COLUMNS,
    events.map(({ key, symbol, at, text = '' }) => [key, symbol, at, text]),
    '\n',
  )
