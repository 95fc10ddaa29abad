import { skipToken, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { type ClauseFinding } from '@/core/engine/verdicts'
import { decimal } from '@/core/market/money'
import { boundOf } from '@/core/orders/gateBound'
import { type Plan } from '@/core/plans/document'
import { contractsOf } from '@/core/plans/drawn'
import { knownAccount, listContracts } from '@/runner/connect'
import { type GateDay, gateDays } from '@/runner/gateDays'
import { useBroker, useOf } from '../link/LinkProvider'
import css from './Plan.module.css'

type Gate = Extract<ClauseFinding, { clause: 'Provided'; why: 'gate' }>

const [WIDTH, HEIGHT, EDGE] = [250, 46, 6]

/** What the gates would have come to on the days before, each drawn against its limit; asked of the market when it is opened. */
export function GateDays({ plan, side, symbol }: { plan: Plan; side: number; symbol: string }) {
  const broker = useBroker()
  const of = useOf()
  const [open, setOpen] = useState(false)
  const asked = JSON.stringify(plan.sides[side])
  const { data, error } = useQuery({
    queryKey: [of, 'gate days', asked, symbol],
    queryFn: open
      ? async () => {
          const known = await knownAccount(broker, [])
          await listContracts(broker, known.shared.listed, contractsOf(plan))
          return gateDays(broker, known, plan, side, symbol, known.now)
        }
      : skipToken,
    staleTime: 300_000,
    structuralSharing: false,
  })
  const names = plan.sides[side].provided.map(({ name }) => name)
  if (names.length === 0) return null
  return (
    <details className={css.between} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>Its gates over the last days</summary>
      {error && <p className="warning">{error.message}</p>}
      {open && !data && !error && <p className="soft">asking the market …</p>}
      {data && data.length === 0 && <p className="soft">No quote of the days before is kept.</p>}
      {data &&
        data.length > 0 &&
        names.map((name, i) => <OneGate key={i} name={name} days={data} gate={i} symbol={symbol} />)}
    </details>
  )
}

/** One gate: its figure on each day, filled where it held, and the limit as a line. */
function OneGate({
  name,
  days,
  gate,
  symbol,
}: {
  name: string
  days: readonly GateDay[]
  gate: number
  symbol: string
}) {
  const found = days.flatMap(({ date, gates }): { date: string; one: Gate }[] =>
    gates[gate] ? [{ date, one: gates[gate] }] : [],
  )
  const held = found.filter(({ one }) => one.verdict === 'holds').length
  const bound = found.length > 0 ? boundOf(found[0].one.rule) : undefined
  const points = bound
    ? found.flatMap(({ date, one }, x) => {
        const value = one.figures[bound.name]
        return value === undefined ? [] : [{ date, x, value, holds: one.verdict === 'holds' }]
      })
    : []
  const said = `${name}: held on ${held} of ${found.length} days`
  if (!bound || points.length === 0) return <p className={css.tried}>{said}; it has no figure to draw.</p>
  const values = [...points.map(({ value }) => value), bound.limit]
  const [low, high] = [Math.min(...values), Math.max(...values)]
  const y = (value: number) =>
    high === low ? HEIGHT / 2 : EDGE + ((high - value) / (high - low)) * (HEIGHT - 2 * EDGE)
  const x = (k: number) => EDGE + (k / Math.max(1, found.length - 1)) * (WIDTH - 2 * EDGE)
  const range = `${bound.name} from ${decimal(Math.min(...points.map((p) => p.value)), 2)} to ${decimal(Math.max(...points.map((p) => p.value)), 2)}, limit ${decimal(bound.limit, 2)}`
  return (
    <figure className={css.tried} style={{ margin: '6px 0' }}>
      <figcaption>
        {said} <span className="soft">({range})</span>
      </figcaption>
      <svg width={WIDTH} height={HEIGHT} role="img" aria-label={`${symbol}, ${said}; ${range}`}>
        <line
          x1={0}
          x2={WIDTH}
          y1={y(bound.limit)}
          y2={y(bound.limit)}
          stroke="var(--vermilion)"
          strokeDasharray="4 3"
        />
        <polyline
          points={points.map((p) => `${x(p.x)},${y(p.value)}`).join(' ')}
          fill="none"
          stroke="var(--ink-soft)"
        />
        {points.map((p) => (
          <circle
            key={p.date}
            cx={x(p.x)}
            cy={y(p.value)}
            r={3.5}
            fill={p.holds ? 'var(--accent)' : 'var(--paper)'}
            stroke={p.holds ? 'var(--accent)' : 'var(--vermilion)'}
          >
            <title>{`${p.date}: ${decimal(p.value, 2)}, ${p.holds ? 'holds' : 'fails'}`}</title>
          </circle>
        ))}
      </svg>
    </figure>
  )
}
