import { isIntraday, roughMinutes, type Timeframe } from '../market/timeframe'
import { type Node, nodesOf } from '../rules'
import { barsNeeded } from '../rules/needs'
import { type Side } from './document'
import { everyOf, readingsOf, treesIn } from './texts'

/** Bars before the first that counts, at least: rules whose memory fades are then near what they would be after more. */
const LEAST = 400
/** Bars that one security is asked for, and all of them together, at most. */
const MOST = 50_000
const MOST_TOGETHER = 2_000_000
/** Minutes of a session; sessions of a week and a month. */
const SESSION = 390
const SESSIONS: Partial<Record<Timeframe['unit'], number>> = { day: 1, week: 5, month: 21 }

/**
 * Bars of one length, that of If where it is left out, that a side's rule text has to be fed before it is asked of them, of each
 * of so many securities: what it looks back on, also on longer bars and over sessions.
 */
export function barsBefore(side: Side, securities: number, every = everyOf(side)): number {
  const aSession = isIntraday(every) ? SESSION / roughMinutes(every) : 1
  const trees = readingsOf(side).flatMap((one) => (isSame(one.every, every) ? treesIn(one).trees : []))
  const needed = trees.map((tree) => Math.max(2 * barsNeeded(tree), aSession * sessionsIn(tree)))
  const wanted = Math.ceil(Math.max(LEAST, 3 * aSession, ...needed))
  return Math.max(LEAST, Math.min(wanted, MOST, Math.floor(MOST_TOGETHER / Math.max(1, securities))))
}

const isSame = (one: Timeframe, other: Timeframe): boolean =>
  one.count === other.count && one.unit === other.unit

/** Sessions that a tree looks back over, by the lengths that it names and what is told by sessions. */
function sessionsIn(tree: Node): number {
  let most = 0
  for (const node of nodesOf(tree)) {
    if (node.kind !== 'call') continue
    const [first] = node.args
    if (node.name === 'usualvolume') most = Math.max(most, (first?.kind === 'number' ? first.value : 20) + 2)
    for (const arg of node.args) {
      const sessions = arg.kind === 'duration' ? (SESSIONS[arg.unit as Timeframe['unit']] ?? 0) : 0
      // On longer bars all that is asked of them lies that far back.
      const deep = node.name === 'on' && node.args[1] ? 2 * barsNeeded(node.args[1]) : 1
      if (arg.kind === 'duration') most = Math.max(most, (arg.count * deep + 1) * sessions)
    }
  }
  return most
}
