import { z } from 'zod'
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
export type Adjustment = 'raw' | 'splits' | 'all'

/**
 * Bars as they were traded, made comparable: before the ex-date of a split prices are divided and volume is
 * multiplied by its ratio; before that of a dividend prices are taken times 1 − amount / close before. Common
 * practice of data vendors; nothing is rounded.
 */
export function adjusted(raw: Bars, actions: readonly Action[], how: Adjustment): Bars {
  const wanted = actions.filter((a) => how === 'all' || (how === 'splits' && a.kind === 'Split'))
  if (wanted.length === 0) return raw
  const { session } = calendarOf(raw)
  const n = session.length
  const [price, size] = [new Float64Array(n).fill(1), new Float64Array(n).fill(1)]
  for (const action of wanted) {
    const ex = dayNumber(action.exDate)
    let first = 0
    while (first < n && session[first] < ex) first++
    // Of bars that all lie on one side of it, an action changes nothing.
    if (first === 0 || first === n) continue
    const factor = action.kind === 'Split' ? 1 / action.ratio : 1 - action.amount / raw.close[first - 1]
    for (let i = 0; i < first; i++) {
      price[i] *= factor
      if (action.kind === 'Split') size[i] *= action.ratio
    }
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
