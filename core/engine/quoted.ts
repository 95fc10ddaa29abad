import { QUOTED } from '../market/bars'
import { type Timeframe } from '../market/timeframe'
import { type LiveBar } from '../rules/exec/liveBar'
import { type Reads } from '../rules'
import { barsBehind } from './behind'
import { type Listed, type Quoted } from './listed'

/** Whether rule text reads the quote that stands on the last bar. */
export const readsQuotes = ({ columns }: Pick<Reads, 'columns'>): boolean =>
  QUOTED.some((name) => columns.has(name))

/** A bar with the quote where it is the last that is over, or grows; on those before the quote is not known. */
export function quotedBar(
  bar: LiveBar,
  quote: Quoted | undefined,
  { venue }: Listed,
  every: Timeframe,
): LiveBar {
  const isLast =
    quote !== undefined && (bar.end === Infinity || barsBehind(venue, every, bar.end, quote.at) === 0)
  const { last, bid, ask } = isLast ? quote : NONE
  return { ...bar, last, bid, ask }
}

const NONE = { last: NaN, bid: NaN, ask: NaN }
