import { type Bars, QUOTED } from './bars'

/** Names of the columns that are taken from the quote. */
export type QuotedName = (typeof QUOTED)[number]

/** Bars with a quote on the last of them; on those before it is not known. */
export function withQuote(
  bars: Bars,
  quote: Readonly<Record<QuotedName, number>> | undefined,
  names: readonly QuotedName[] = QUOTED,
): Bars {
  const out = { ...bars }
  for (const name of names) {
    const column = (out[name] = new Float64Array(bars.time.length).fill(NaN))
    if (column.length > 0) column[column.length - 1] = quote?.[name] ?? NaN
  }
  return out
}
