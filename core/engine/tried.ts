import { type LiveBar } from '../rules/exec/liveBar'
import { feedBrought } from './brought'
import { type Quoted } from './listed'
import { type Follower } from './prepare'
import { type Stepping } from './want'

const NONE: readonly [string, string][] = []

const quoteOf = ({ last, bid, ask }: Quoted) => ({ last, bid, ask })

/** Bars that the plan carries are fed as far as they are over. */
export function takeBrought({ streams, memory, watched }: Follower, by: number): void {
  if (streams.length > 0) feedBrought(memory, streams, (watched!.besideEnds ??= {}), by)
}

/** Tries the bar that grows; undefined where there is none, or what it would be tried on is not known. */
export function tried({ shared, at }: Stepping, follower: Follower): LiveBar | undefined {
  const { symbol, reading, besides, memory, clock } = follower
  const { lastEnd } = follower.watched!
  const bars = shared.growing[reading.every]?.bars
  const growing = bars?.get(symbol)
  const { session, state: is } = clock.at(at)
  // The bar before this one may not be told yet.
  const late = growing && lastEnd > session.open && lastEnd < growing.time
  if (!growing || growing.time < lastEnd || late || is !== 'Open') return undefined
  takeBrought(follower, at)
  // An empty map is not begun to be walked through: this is done at every quote.
  for (const [other, name] of besides.size > 0 ? besides : NONE) {
    const beside = bars!.get(other)
    if (beside) memory.feed(beside, false, name)
  }
  memory.feed(reading.quoted ? { ...growing, ...quoteOf(shared.quotes[symbol]) } : growing, false)
  return growing
}
