'use client'
import { useQuery } from '@tanstack/react-query'
import { decimal } from '@/core/market/money'
import { type Breadth, netAdvances, sayBreadth } from '@/core/scan/breadth'
import { useServices, VENUE } from '../link/LinkProvider'
import css from './Find.module.css'
import { Spark } from './Spark'
import { type Source } from '../services/market'
import { useMarket } from '../market/useMarket'

const SESSIONS = 63
const WIDTH = 274
const HALF = 30

/** Breadth beside the scan: which way the market leans, drawn over three months and said in a sentence. */
export function MarketToday({ source, wait }: { source: Source | undefined; wait: boolean }) {
  const market = useMarket()
  const { scans } = useServices()
  // Days tell the lean whatever bars the scan runs on.
  const days: Source | undefined =
    source &&
    (source.is === 'own'
      ? source
      : { ...source, frame: '1 day', version: source.version.split(' ').slice(0, 2).join(' ') })
  const home = market?.securities.filter((s) => s.kind !== 'Index' && s.venue === VENUE).map((s) => s.symbol)
  const { data } = useQuery({
    queryKey: ['breadth', days],
    enabled: days !== undefined && market !== undefined && !wait,
    placeholderData: (before) => before,
    queryFn: () => scans.breadth(market!, days!, days!.is === 'own' ? undefined : home),
  })
  if (!data || data.time.length === 0) return null
  const last = data.time.length - 1
  const share = (values: Float64Array) =>
    Number.isNaN(values[last]) ? 'unknown' : `${decimal(values[last], 0)}\u00a0%`
  return (
    <section aria-label="The market" style={{ marginTop: 16 }}>
      <h3>{days?.is === 'own' ? 'All of this set' : 'The market'}</h3>
      <Lines all={data} />
      <p className={css.lean}>{sayBreadth(data)}</p>
      <dl className={css.shares}>
        <dt>
          {count(data.advancing[last])} rose, {count(data.declining[last])} fell
        </dt>
        <dd>
          <Spark values={lately(netAdvances(data))} />
        </dd>
        <dt>{share(data.above50)} above the 50-day average</dt>
        <dd>
          <Spark values={lately(data.above50)} />
        </dd>
        <dt>{share(data.above200)} above the 200-day average</dt>
        <dd>
          <Spark values={lately(data.above200)} />
        </dd>
      </dl>
      <p className="soft">Lines: the last {lately(data.advancing).length} sessions.</p>
    </section>
  )
}

const count = (n: number) => n.toLocaleString('en-US')
const lately = (values: Float64Array): number[] => Array.from(values.slice(-SESSIONS))

/** New highs upward, new lows downward from one line. */
function Lines({ all }: { all: Breadth }) {
  const highs = all.highs.slice(-SESSIONS)
  const lows = all.lows.slice(-SESSIONS)
  const most = Math.max(1, ...highs, ...lows)
  const path = (values: Float64Array, way: 1 | -1) =>
    Array.from(values, (value, i) => {
      const x = (i * WIDTH) / Math.max(1, values.length - 1)
      return `${i === 0 ? 'M' : 'L'}${x.toFixed(1)} ${(HALF - (way * value * (HALF - 2)) / most).toFixed(1)}`
    }).join('')
  const said = `New highs and new lows over ${highs.length} sessions; at most ${most} in one.`
  return (
    <svg viewBox={`0 0 ${WIDTH} ${2 * HALF}`} className={css.breadth} role="img" aria-label={said}>
      <title>{said}</title>
      <line x1={0} x2={WIDTH} y1={HALF} y2={HALF} stroke="var(--line)" />
      <path d={path(highs, 1)} fill="none" stroke="var(--up)" strokeWidth={1.4} />
      <path d={path(lows, -1)} fill="none" stroke="var(--down)" strokeWidth={1.4} strokeDasharray="3 2" />
    </svg>
  )
}
