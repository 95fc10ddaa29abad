import { Button } from '@mantine/core'
import { useState } from 'react'
import { useServices, useSession } from '../link/LinkProvider'
import { type RunHere } from '../services/runHere'
import { clockText } from '../shell/marketTime'
import css from './Plan.module.css'

/** What a running plan wants of the trader: an answer about an order, or points for an event. */
export function WaitingFor({ run }: { run: RunHere }) {
  const { plans } = useServices()
  const zone = useSession().data?.zone
  const { id } = run.plan
  const own = new Map(
    run.plan.sides.flatMap(({ score }) =>
      (score?.lines ?? []).flatMap(({ name, from, points }) =>
        from === 'Trader' ? [[name, points] as const] : [],
      ),
    ),
  )
  if (run.asks.length === 0 && run.waits.length === 0) return null
  return (
    <section aria-label="Waits for you" className={css.waits}>
      {run.asks.map(({ clOrdId, text, until }) => (
        <p key={clOrdId} role="alert">
          <b>{text}?</b>{' '}
          <span className="soft">until {clockText(new Date(until).toISOString(), true, zone)}</span>{' '}
          <Button size="xs" onClick={() => plans.answer(id, clOrdId, true)} disabled={!run.acts}>
            Send it
          </Button>{' '}
          <Button size="xs" variant="default" onClick={() => plans.answer(id, clOrdId, false)}>
            Decline
          </Button>
        </p>
      ))}
      {run.waits.map(({ key, symbol, lines }) => (
        <p key={key}>
          <b>{symbol}</b>, {key}: waits for {lines.join(', ')}{' '}
          {lines
            .filter((line) => own.has(line))
            .map((line) => (
              <PointsBlank
                key={line}
                line={line}
                most={own.get(line)!}
                give={(points) => plans.points(id, key, line, points)}
              />
            ))}
        </p>
      ))}
    </section>
  )
}

function PointsBlank({
  line,
  most,
  give,
}: {
  line: string
  /** What the line gives: points stay between nought and that. */
  most: number
  give(points: number): void
}) {
  const [typed, setTyped] = useState('')
  const points = typed.trim() === '' ? NaN : Number(typed)
  const fits = Number.isInteger(points) && points >= Math.min(0, most) && points <= Math.max(0, most)
  return (
    <form
      style={{ display: 'inline' }}
      onSubmit={(e) => {
        e.preventDefault()
        if (fits) give(points)
      }}
    >
      <input
        className="blank"
        aria-label={`Points for ${line}`}
        inputMode="numeric"
        size={3}
        value={typed}
        onChange={(e) => setTyped(e.currentTarget.value)}
      />{' '}
      <Button size="xs" variant="default" type="submit" disabled={!fits}>
        Give points
      </Button>
      {typed.trim() !== '' && !fits && (
        <span role="status" className="refusal">
          {' '}
          {line} gives {Math.min(0, most)} to {Math.max(0, most)}
        </span>
      )}
    </form>
  )
}
