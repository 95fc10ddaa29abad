import { type Bars } from '../market/bars'
import { type Timeframe, timeframeText } from '../market/timeframe'
import { type Plan } from '../plans/document'
import { barsOfOwn, fedAs } from '../plans/ownBars'
import { barSource, type BarSource } from '../rules'
import { barAt } from '../rules/exec/liveBar'
import { type Turn } from '../rules/exec/turns'

/** Bars that a plan carries itself, of those names that rule text reads on bars of a length, as they are fed to it. */
export function broughtOf(
  { bars = {} }: Pick<Plan, 'bars'>,
  names: readonly string[],
  every: Timeframe,
): Map<string, Bars> {
  return new Map(names.flatMap((name) => (bars[name] ? [[name, fedAs(bars[name], every)] as const] : [])))
}

/** Names of rule text whose bars the broker is asked for: all that the plan does not carry itself. */
export const askedOfBroker = ({ bars = {} }: Pick<Plan, 'bars'>, names: readonly string[]): string[] =>
  names.filter((name) => !bars[name])

/** Where a follower has come to in bars that its plan carries. */
export interface BroughtStream {
  name: string
  bars: Bars
  /** The next row that was not fed. */
  next: number
}

export const streamsOf = (brought: ReadonlyMap<string, Bars>): BroughtStream[] =>
  [...brought].map(([name, bars]) => ({ name, bars, next: 0 }))

/**
 * Feeds what a plan carries as far as it is over by a moment. How far each has come stands in `ends`, which is kept: who goes on
 * from there is fed nothing twice.
 */
export function feedBrought(
  memory: Turn,
  streams: readonly BroughtStream[],
  ends: Record<string, number>,
  by: number,
): void {
  for (const stream of streams) {
    const { name, bars } = stream
    const { end } = bars
    const last = ends[name] ?? -Infinity
    for (; stream.next < end.length && end[stream.next] <= by; stream.next++) {
      if (end[stream.next] <= last) continue
      memory.feed(barAt(bars, stream.next), true, name)
      ends[name] = end[stream.next]
    }
  }
}

/** The same over columns, as far as it is over by a moment. */
export function broughtSource(
  { bars = {} }: Pick<Plan, 'bars'>,
  name: string,
  every: Timeframe,
  by: (bars: Bars) => Bars,
): BarSource | undefined {
  const own = bars[name]
  if (!own) return undefined
  const fed = by(fedAs(own, every))
  const longer = timeframeText(barsOfOwn(own).every) === timeframeText(fed.every) ? [] : [by(barsOfOwn(own))]
  return barSource(fed, longer)
}
