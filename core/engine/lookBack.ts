import { toTick } from '../market/increment'
import { sessionAtOrAfter, sessionsBetween } from '../market/venue'
import { exitPrices } from '../orders/levels'
import { partsOf } from '../orders/exits'
import { type Plan } from '../plans/document'
import { wayOf } from '../plans/entry'
import { fixedExits } from '../plans/exits'
import { putsOff } from '../plans/putsOff'
import { everyOf, treesOf } from '../plans/texts'
import { checkMeasure, HOLDS } from '../rules'
import { barAt, type LiveBar } from '../rules/exec/liveBar'
import { clockOf } from './clock'
import { machineOf, type PastBars } from './evidence'
import { type Listed } from './listed'

/**
 * A past beginning of a condition, as if it had been entered at the close of its bar, or, where that ends with the session, at the
 * open of the next bar; prices a share.
 */
export interface Past {
  /** End of the bar in which it began. */
  at: number
  entry: number
  stop?: number
  target?: number
  /** What came first: where a bar reaches both, the stop counts; `open` is none of them by the last bar. */
  was: 'target' | 'stop' | 'rule' | 'time' | 'open'
  /** End of the bar in which it was left, at which price; of an open one the last close. */
  leftAt: number
  left: number
  /** Average range of 14 bars at the entry. */
  range: number
}

const RANGE = 'atr(14)'

/**
 * What would have become of each past beginning of a side on complete bars, newest first: the first part of its exits, a rule and the
 * time that it is left at. A beginning while another is under way, or outside of When, is passed over; other clauses are not
 * asked. Throws RangeError for a plan that does not check.
 */
export function lookBack(
  plan: Plan,
  side: number,
  { bars, others }: PastBars,
  listed: Readonly<Record<string, Listed>>,
  symbol: string,
): Past[] {
  const own = plan.sides[side]
  const way = wayOf(own.do)
  if (way === 0 || 'legs' in own.do) return []
  const every = everyOf(own)
  const { trees, place } = treesOf(own)
  const { venue, security } = listed[symbol]
  const { increments } = security
  const all = [...trees, checkMeasure(RANGE, every).tree!]
  const { machine, beside } = machineOf(plan, side, all, others, { listed, symbol })
  const clock = clockOf(venue)
  const out: Past[] = []
  const off = putsOff(plan, own)
  const { weekdays, monthDays } = plan.when
  const days = { weekdays, monthDays }
  let [held, before] = [undefined as Past | undefined, undefined as boolean | undefined]
  // Of bars that end with the session: the end of the one in which it began, and whether its rule has said to leave.
  let [waits, leaving] = [undefined as number | undefined, false]
  /** Start of the bar in which it was entered. */
  let entered = 0
  for (let row = 0; row < bars.time.length && bars.end[row] !== Infinity; row++) {
    const bar = barAt(bars, row)
    if (held && leaving) {
      Object.assign(held, { was: 'rule', left: bar.open, leftAt: bar.time })
      held = undefined
    }
    // A bar of a day or longer begins at midnight; it is entered where its first session opens.
    if (waits !== undefined && clock.whenAt(days, sessionAtOrAfter(venue, bar.time).open) === 'in time')
      enter(bar.open, waits, bar.time)
    ;[waits, leaving] = [undefined, false]
    for (const { of, bar: other } of beside.upTo(bar.end)) machine.feed(other, true, of)
    machine.feed(bar, true)
    const holds = machine.value(0) === HOLDS
    if (held && leaves(held, bar)) held = undefined
    if (!held && holds && before === false) {
      if (off) waits = bar.end
      else if (clock.whenAt(plan.when, bar.end) === 'in time') enter(bar.close, bar.end, bar.time)
    }
    before = holds
  }
  return out.reverse()

  function enter(entry: number, at: number, time: number): void {
    entered = time
    held = pastOf(entry, at)
    if (held) out.push(held)
  }

  function pastOf(entry: number, at: number): Past | undefined {
    const was = 'open' as const
    const past = { at, entry, was, leftAt: at, left: entry, range: machine.value(trees.length) }
    const { exits } = own.then
    if (!exits) return past
    const valueOf = (text: string) => machine.value(place.get(text)!)
    const onTick = (price: number) => toTick(increments, price)
    const fixed = fixedExits(exits, { valueOf, entry, way: way as 1 | -1, onTick })
    // On such a day nothing is ordered.
    if (!('exits' in fixed)) return undefined
    const terms = { side: way > 0 ? ('Buy' as const) : ('SellShort' as const), reference: entry, quantity: 1 }
    const [{ stop, target }] = partsOf(fixed.exits)
    return { ...past, ...exitPrices({ stop, target }, { ...terms, bands: increments }) }
  }

  /** Whether it is left in a bar; notes how. */
  function leaves(one: Past, bar: LiveBar): boolean {
    const { stop, target } = one
    const [against, along] = way > 0 ? [bar.low, bar.high] : [bar.high, bar.low]
    Object.assign(one, { leftAt: bar.end, left: bar.close })
    const over = (was: Past['was'], left = bar.close) => Object.assign(one, { was, left })
    if (stop !== undefined && way * (against - stop) <= 0)
      // Where it opens beyond the stop, it is left there.
      return Boolean(over('stop', way * (bar.open - stop) < 0 ? bar.open : stop))
    if (target !== undefined && way * (along - target) >= 0) return Boolean(over('target', target))
    const { leaveIf, outAt, sessions = 1 } = own.then
    // A rule on bars of its own is not asked on these.
    if (leaveIf && place.has(leaveIf) && machine.value(place.get(leaveIf)!) === HOLDS) {
      leaving = off
      return off ? false : Boolean(over('rule'))
    }
    if (!outAt) return false
    const [first, now] = [clock.at(entered).date, clock.at(bar.end - 1).date]
    const last = sessionsBetween(venue, first, now).length >= sessions
    return last && bar.end >= clock.momentOf(outAt, bar.end - 1) ? Boolean(over('time')) : false
  }
}

/** How many of past beginnings ended in which way, and how far exits lay away in average ranges. */
export interface LookedBack {
  began: number
  target: number
  stop: number
  other: number
  open: number
  /** Mean distance in average ranges; undefined where there is none. */
  stopRanges?: number
  targetRanges?: number
  /** Mean of what was gained, percent of the entry. */
  meanPercent: number
}

export function summedUp(pasts: readonly Past[], way: 1 | -1): LookedBack {
  const count = (...was: Past['was'][]) => pasts.filter((one) => was.includes(one.was)).length
  const ranges = (which: 'stop' | 'target') => {
    const known = pasts.filter((one) => one[which] !== undefined && one.range > 0)
    if (known.length === 0) return undefined
    return known.reduce((sum, one) => sum + Math.abs(one[which]! - one.entry) / one.range, 0) / known.length
  }
  const gains = pasts.map(({ entry, left }) => way * 100 * (left / entry - 1))
  return {
    ...{ began: pasts.length, target: count('target'), stop: count('stop'), other: count('rule', 'time') },
    ...{ open: count('open'), stopRanges: ranges('stop'), targetRanges: ranges('target') },
    meanPercent: gains.reduce((a, b) => a + b, 0) / gains.length,
  }
}
