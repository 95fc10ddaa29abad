import { type BarSet, appendBars } from '@/core/market/barTable'
import { columnNames, QUOTED } from '@/core/market/bars'
import { type QuotedName, withQuote } from '@/core/market/quotedBars'
import { type Quote } from '@/core/market/wire'
import { type Frame } from '../market/frames'
import { shareCalendars } from './barChunks'

/** The bars that still grow, behind those that are complete. */

/** Complete bars with the growing one behind each. */
export function withLast(complete: BarSet, growing: BarSet): BarSet {
  const row = new Map(growing.symbols.map((symbol, i) => [symbol, i]))
  const bars = complete.bars.map((one, i) => {
    const at = row.get(complete.symbols[i])
    return at === undefined ? one : appendBars(one, growing.bars[at])
  })
  return { symbols: complete.symbols, bars: shareCalendars(bars) }
}

/**
 * Writes the growing bars in place, in memory that the workers see too; false where a bar has ended since, so that
 * there is no room. Nobody may be reading meanwhile.
 */
export function writeLast(set: BarSet, growing: BarSet): boolean {
  const shared = typeof SharedArrayBuffer !== 'undefined'
  if (!shared || !(set.bars[0]?.time.buffer instanceof SharedArrayBuffer)) return false
  const row = new Map(growing.symbols.map((symbol, i) => [symbol, i]))
  const pairs = set.symbols.map((symbol, i) => [set.bars[i], growing.bars[row.get(symbol) ?? -1]] as const)
  const fits = pairs.every(
    ([bars, more]) =>
      !more || more.time.length === 0 || bars.time[bars.time.length - 1] === more.time[more.time.length - 1],
  )
  if (!fits) return false
  for (const [bars, more] of pairs) {
    if (!more || more.time.length === 0) continue
    for (const name of columnNames(more)) {
      const column = bars[name]
      if (column) column[column.length - 1] = more[name]![more[name]!.length - 1]
    }
  }
  return true
}

/** The columns of a frame that are taken from quotes. */
export const quotedIn = (frame: Frame): QuotedName[] => QUOTED.filter((name) => frame.extras.includes(name))

/** Bars with the quotes of now on their last rows. */
export function quoted(base: BarSet, names: readonly QuotedName[], all: readonly Quote[]): BarSet {
  const quotes = new Map(all.map((quote) => [quote.symbol, quote]))
  const bars = base.bars.map((one, i) => withQuote(one, quotes.get(base.symbols[i]), names))
  return { symbols: base.symbols, bars }
}
