import { type Bars } from '@/core/market/bars'
import { sayBar } from '@/core/market/moments'
import { priceText, short } from '@/core/market/money'
import { valueText } from '@/core/rules'
import { type Line } from './chartOption'
import css from './Look.module.css'

/** The figures of the bar under the crosshair, or of the last one. */
export function Readout({
  bars,
  lines,
  row,
  said,
}: {
  bars: Bars
  lines: readonly Line[]
  row: number
  /** What happened at that bar. */
  said: readonly string[]
}) {
  const at = Math.min(row, bars.time.length - 1)
  const figures: [string, number][] = [
    ['open', bars.open[at]],
    ['high', bars.high[at]],
    ['low', bars.low[at]],
    ['close', bars.close[at]],
  ]
  return (
    <div className={css.readout}>
      <span>
        <b>{sayBar(bars, at)}</b>
      </span>
      {figures.map(([name, value]) => (
        <span key={name}>
          {name} <b>{priceText(value)}</b>
        </span>
      ))}
      <span>
        volume <b>{short(bars.volume[at])}</b>
      </span>
      {lines.map((line) => (
        <span key={line.text}>
          <i
            className={css.swatch}
            style={{ borderTopColor: `var(--${line.color})`, borderTopStyle: line.dash }}
          />
          {line.text} <b>{valueText(line.values[at], line.unit)}</b>
        </span>
      ))}
      {said.map((text) => (
        <span key={text}>
          <b>{text}</b>
        </span>
      ))}
    </div>
  )
}
