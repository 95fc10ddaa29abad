import { localDate, sessionsBetween } from '../market/venue'
import { fromE4 } from '../market/money'
import { isIntraday } from '../market/timeframe'
import { type Then } from '../plans/exits'
import { HOLDS } from '../rules'
import { addByDistance } from './adds'
import { leavesAlone } from './byHand'
import { clockOf } from './clock'
import { type Follower, heldFollower, heldValue, keyOf, type Prepared } from './prepare'
import { type Held, type Watched } from './state'
import { exitsOf, moveStops } from './stops'
import { closeBoth, closeHeld, say, type Stepping } from './want'
import { type Shared } from './shared'
import { daysLeft, netGain } from './whole'
import { worthOf } from './worth'

/** What is held of a security is closed once its time has come, or where its rule holds; its stop is moved. */
export function watchHeld(stepping: Stepping, symbol: string, over?: { time: number; end: number }): void {
  const { prepared, state } = stepping
  const held = state.held[symbol]
  if (!held || held.quantity === 0 || leavesAlone(prepared, state, symbol)) return
  const { then } = prepared.sides[held.side].side
  const bar = over ?? missedBar(stepping, symbol, held)
  if (leaveOn(stepping, symbol)) return
  if (leaveInTime(stepping, symbol, held, then)) return
  const ruled = then.leaveIf === undefined ? undefined : ruledAt(stepping, symbol, held, bar)
  if (ruled !== undefined && heldValue(prepared, held.side, symbol, then.leaveIf!) === HOLDS) {
    closeBoth(stepping, held.side, symbol, `its rule at ${ruled} ${tradeOf(stepping, symbol)}`)
    return
  }
  if (then.stopWaits !== undefined && leaveStop(stepping, symbol, then.stopWaits)) return
  if (then.net && leaveByNet(stepping, symbol, held, then.net)) return
  if (held.legs) return
  moveStops(stepping, symbol, held, bar)
  addByDistance(stepping, symbol, held)
}

/** The last bar since the fill, where it was completed while nobody followed: it is asked once, as soon as the venue is open. */
function missedBar({ prepared, at }: Stepping, symbol: string, { side, opened }: Held): Watched['missed'] {
  const watched = watcherOf(prepared, side, symbol)?.watched
  const missed = watched?.missed
  if (!missed || clockOf(prepared.listed[symbol].venue).at(at).state !== 'Open') return undefined
  watched.missed = undefined
  return missed.end > opened ? missed : undefined
}

/** Who follows the bars on which what is held of a security is watched. */
const watcherOf = (prepared: Prepared, side: number, symbol: string): Follower | undefined =>
  heldFollower(prepared, side, symbol) ?? prepared.followers.get(keyOf(side, symbol))

/**
 * The bar at which the rule for leaving is asked now; undefined where it is not. A bar of a day or longer ends with the session: it
 * is asked, of one that ended since the position was opened, as soon as the venue is open again.
 */
function ruledAt(
  { prepared, at }: Stepping,
  symbol: string,
  { side, opened }: Held,
  bar: { time: number } | undefined,
): number | undefined {
  const follower = watcherOf(prepared, side, symbol)
  const reading = follower?.reading
  if (!reading || reading.ticks || isIntraday(reading.graph.frames[0].every)) return bar?.time
  const { state, session } = clockOf(prepared.listed[symbol].venue).at(at)
  const { lastEnd = -Infinity } = follower.watched ?? {}
  return state === 'Open' && session.open >= lastEnd && lastEnd > opened ? lastEnd : undefined
}

/** What is being left and is still held is left on, while the venue is open. */
function leaveOn(stepping: Stepping, symbol: string): boolean {
  const { prepared, state, at } = stepping
  const signal = state.leaving[symbol]
  if (signal === undefined) return false
  if (clockOf(prepared.listed[symbol].venue).at(at).state !== 'Open') return true
  return closeHeld(stepping, symbol, signal)
}

/** Closes at the market what a stop that was set off has not sold at its limit in so many minutes. */
function leaveStop(stepping: Stepping, symbol: string, minutes: number): boolean {
  const { prepared, at } = stepping
  const off = exitsOf(stepping, symbol, 'Stop').find(
    ({ offAt }) => offAt !== undefined && at - offAt >= minutes * 60_000,
  )
  if (!off || clockOf(prepared.listed[symbol].venue).at(at).state !== 'Open') return false
  return closeHeld(stepping, symbol, `its stop ${tradeOf(stepping, symbol)}`, true)
}

/** Number of the trade that is under way: one that begins after another has ended is closed too. */
const tradeOf = ({ state: { ended } }: Stepping, symbol: string): number => (ended[symbol]?.length ?? 0) + 1

/** Percent of what both legs of a pair were worth at their fills that they have gained together; NaN if one was never quoted. */
function pairGain(shared: Shared, both: readonly Held[], symbols: readonly string[]): number {
  let [gain, cost] = [0, 0]
  both.forEach(({ quantity, costE4 }, i) => {
    const worth = shared.quotes[symbols[i]] ? worthOf(shared, symbols[i], quantity) : NaN
    gain += Math.sign(quantity) * worth - fromE4(costE4)
    cost += Math.abs(fromE4(costE4))
  })
  return (100 * gain) / cost
}

/** Closes several legs, or a pair, once they have gained, or lost, so much of their net price. */
function leaveByNet(
  stepping: Stepping,
  symbol: string,
  held: Held,
  { gain = Infinity, loss = Infinity }: NonNullable<Then['net']>,
): boolean {
  const { prepared, shared, at } = stepping
  const { date, state } = clockOf(prepared.listed[symbol].venue).at(at)
  const mate = prepared.sides[held.side].mates.get(symbol)
  const other = mate === undefined ? undefined : stepping.state.held[mate]
  const gained = other ? pairGain(shared, [held, other], [symbol, mate!]) : netGain(shared, held)
  if (state !== 'Open' || !(gained >= gain || gained <= -loss)) return false
  const signal = `its net price on ${date} ${tradeOf(stepping, symbol)}`
  return closeBoth(stepping, held.side, symbol, signal)
}

/** Closes at the time of the session, on the last of its sessions, or with so many days left. */
function leaveInTime(stepping: Stepping, symbol: string, held: Held, then: Then): boolean {
  const { outAt, sessions } = then
  if (!outAt && then.daysLeft === undefined) return false
  const { prepared, at } = stepping
  const { venue } = prepared.listed[symbol]
  const clock = clockOf(venue)
  if (clock.at(at).state !== 'Open' || (outAt && at < clock.momentOf(outAt, at))) return false
  if (then.daysLeft !== undefined && daysLeft(held.legs ?? [], localDate(venue, at)) > then.daysLeft)
    return false
  if (sessions !== undefined && sessionsBetween(venue, held.date, localDate(venue, at)).length < sessions)
    return false
  return closeHeld(stepping, symbol, `at its time ${tradeOf(stepping, symbol)}`)
}

/** One leg of a pair is left without the other: what works of it is taken back, what is held is closed, where the plan says so. */
export function leaveAlone(stepping: Stepping, symbol: string): void {
  const { prepared, state } = stepping
  for (const { side, mates } of prepared.sides) {
    const mate = mates.get(symbol)
    if (mate === undefined || !('open' in side.do) || side.do.mate?.alone !== 'Close') continue
    // Both were there: it is left by its own clauses.
    if ((state.held[symbol]?.quantity ?? 0) !== 0 || leavesAlone(prepared, state, mate)) continue
    for (const id of state.working[mate] ?? []) {
      const own = state.orders[id]
      if (own.role !== 'entry' || own.asked === 'gone' || own.orderId === undefined) continue
      own.asked = 'gone'
      own.wished = true
      say(stepping, { is: 'cancel', symbol: mate, clOrdId: own.clOrdId ?? id })
    }
    closeHeld(stepping, mate, `without ${symbol} ${tradeOf(stepping, mate)}`)
  }
}

/** Takes back every order of the plan in a security that it has given up: entries, stops and targets. */
export function withdraw(stepping: Stepping, symbol: string): void {
  const { state } = stepping
  for (const [clOrdId, own] of Object.entries(state.orders)) {
    if (own.symbol !== symbol) continue
    if (own.works && own.role === 'entry' && own.orderId !== undefined && own.asked !== 'gone') {
      own.asked = 'gone'
      own.wished = true
      say(stepping, { is: 'cancel', symbol, clOrdId: own.clOrdId ?? clOrdId })
    }
    for (const exit of Object.values(own.exits ?? {}))
      if (exit.works && !exit.withdrawn) {
        exit.withdrawn = true
        say(stepping, { is: 'cancel', symbol, clOrdId: exit.clOrdId })
      }
  }
}
