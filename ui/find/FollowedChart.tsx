import { type Followed } from '@/core/scan/followed'
import css from './Find.module.css'

const WIDTH = 330
const HEIGHT = 112
const FOOT = 16

/** The hits as filled steps over the outline of all other bars; both as shares of their own. */
export function FollowedChart({ followed }: { followed: Followed }) {
  const { from, step, hits, others } = followed.bins
  const most = Math.max(1, ...hits, ...others)
  const x = (k: number) => (k * WIDTH) / hits.length
  const y = (share: number) => (HEIGHT - FOOT) * (1 - share / most)
  const outline = others
    .map(
      (share, k) => `${k === 0 ? 'M' : 'L'}${x(k).toFixed(1)} ${y(share).toFixed(1)}H${x(k + 1).toFixed(1)}`,
    )
    .join('')
  const place = (percent: number) => ((percent - from) / step / hits.length) * WIDTH
  const said = `Changes over ${followed.ahead} bars: ${followed.cases} hits (filled) against ${followed.others.total.toLocaleString('en-US')} other bars (line), from ${from} to ${from + step * hits.length} percent.`
  const ticks = [from, from / 2, 0, -from / 2, -from]
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className={css.distribution} role="img" aria-label={said}>
      <title>{said}</title>
      {hits.map((share, k) => (
        <rect
          key={k}
          x={x(k) + 0.5}
          y={y(share)}
          width={Math.max(1, WIDTH / hits.length - 1)}
          height={HEIGHT - FOOT - y(share)}
          fill="var(--accent)"
          opacity={0.55}
        />
      ))}
      <path d={outline} fill="none" stroke="var(--ink)" strokeWidth={1.2} />
      <line
        x1={place(0)}
        x2={place(0)}
        y1={0}
        y2={HEIGHT - FOOT}
        stroke="var(--ink-soft)"
        strokeDasharray="2 3"
      />
      {ticks.map((tick) => (
        <text
          key={tick}
          x={Math.max(2, Math.min(WIDTH - 2, place(tick)))}
          y={HEIGHT - 3}
          fontSize={11}
          fill="var(--ink-soft)"
          textAnchor={tick === from ? 'start' : tick === -from ? 'end' : 'middle'}
        >
          {tick > 0 ? '+' : tick < 0 ? '−' : ''}
          {Math.abs(tick)} %
        </text>
      ))}
    </svg>
  )
}
