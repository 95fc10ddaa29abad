import { type Bars } from '@/core/market/bars'
import { type Inks } from './inks'
import { type Mark } from './marks'

/** One shape means one thing, here as on the rails: the chevron a rule that came true, the triangle a fill. */
const TRIANGLE = 'path://M0 12 L6 1 L12 12 Z'
const TRIANGLE_DOWN = 'path://M0 0 L12 0 L6 11 Z'
const CHEVRON = 'path://M0 12 L6 2 L12 12'
const CHEVRON_DOWN = 'path://M0 0 L6 10 L12 0'

/** Where a rule came true: under the bar where one may buy, over it where one may sell. */
export function chevrons(
  name: string,
  rows: readonly number[],
  side: 'for' | 'against',
  bars: Bars,
  placeOf: (row: number) => number,
  inks: Inks,
) {
  const under = side === 'for'
  return {
    name,
    type: 'scatter',
    data: rows.map((row) => [placeOf(row), (under ? bars.low : bars.high)[placeOf(row)]]),
    symbol: under ? CHEVRON : CHEVRON_DOWN,
    symbolSize: [10, 9],
    symbolOffset: [0, under ? 11 : -11],
    itemStyle: { color: 'transparent', borderColor: inks.accent, borderWidth: 1.6 },
    silent: true,
  }
}

/** Fills stand at their price, filled where bought and outlined where sold; events at the head of their bar. */
export function markItem(mark: Mark, place: number, bars: Bars, inks: Inks) {
  if (mark.kind === 'fill')
    return {
      value: [place, mark.price],
      symbol: mark.side === 'Buy' ? TRIANGLE : TRIANGLE_DOWN,
      symbolSize: [11, 10],
      itemStyle:
        mark.side === 'Buy'
          ? { color: inks.ink }
          : { color: inks.paper, borderColor: inks.ink, borderWidth: 1.8 },
    }
  if (mark.kind === 'order')
    return {
      value: [place, mark.price],
      symbol: 'path://M0 0 L12 0 L12 3 L0 3 Z',
      symbolSize: [12, 3],
      itemStyle: { color: inks.ink },
    }
  return {
    value: [place, bars.high[place]],
    symbol: mark.kind === 'earnings' ? 'path://M0 6 L6 0 L12 6 L6 12 Z' : 'path://M0 0 L12 0 L12 8 L0 8 Z',
    symbolSize: mark.kind === 'earnings' ? 9 : [9, 6],
    symbolOffset: [0, -12],
    itemStyle: { color: inks.paper, borderColor: inks.value, borderWidth: 1.6 },
  }
}
