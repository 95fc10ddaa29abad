import * as z from 'zod'
import { type Bars } from './bars'
import { calendarOf } from './columns'
import { dayNumber } from './figures'

/** Something that changes what a share is, from the session of its ex-date on. */
export const Action = z
  .discriminatedUnion('kind', [
    z.object({
      kind: z.literal('Split'),
      exDate: z.string(),
      ratio: z
        .number()
        .positive()
        .meta({ description: 'New shares for one old; below 1 for a reverse split' }),
    }),
    z.object({ kind: z.literal('Dividend'), exDate: z.string(), amount: z.number().positive() }),
  ])
  .meta({ id: 'CorporateAction' })
export type Action = z.infer<typeof Action>

/** Prices as they were, or made comparable over splits, or over splits and dividends. */
export type Adjustment = 'as-traded' | 'over-splits' | 'over-splits-and-dividends'

/** By what prices are multiplied, and volume, on all days before `exDay` (days since 1970). */
export interface Factor {
  exDay: number
  price: number
  size: number
}

/**
 * What makes prices before each action comparable with those after it: one over the ratio of a split, with volume
 * times the ratio; 1 − amount / close before of a dividend. `raw` are bars as traded that hold the close before each
 * dividend; an action that lies outside them gives none. Common practice of data vendors.
 */
export function factorsOf(raw: Bars, actions: readonly Action[], how: Adjustment): Factor[] {
  const { session } = calendarOf(raw)
  const n = session.length
  return actions.flatMap((action) => {
    if (how === 'as-traded' || (how === 'over-splits' && action.kind !== 'Split')) return []
    const exDay = dayNumber(action.exDate)
    let first = 0
    while (first < n && session[first] < exDay) first++
    if (first === 0 || first === n) return []
    return action.kind === 'Split'
      ? [{ exDay, price: 1 / action.ratio, size: action.ratio }]
      : [{ exDay, price: 1 - action.amount / raw.close[first - 1], size: 1 }]
  })
}

/** Bars made comparable by factors; bars of any length, also of one session alone. Nothing is rounded. */
export function adjustedBy(raw: Bars, factors: readonly Factor[]): Bars {
  if (factors.length === 0) return raw
  const { session } = calendarOf(raw)
  const n = session.length
  const [price, size] = [new Float64Array(n).fill(1), new Float64Array(n).fill(1)]
  for (const factor of factors)
    for (let i = 0; i < n && session[i] < factor.exDay; i++) {
      price[i] *= factor.price
      size[i] *= factor.size
    }
  const times = (column: Float64Array, by: Float64Array) => column.map((x, i) => x * by[i])
  return {
    ...raw,
    open: times(raw.open, price),
    high: times(raw.high, price),
    low: times(raw.low, price),
    close: times(raw.close, price),
    volume: times(raw.volume, size),
  }
}

/** Bars as they were traded, made comparable over what lies within them. */
export const adjusted = (raw: Bars, actions: readonly Action[], how: Adjustment): Bars =>
  adjustedBy(raw, factorsOf(raw, actions, how))
