import { incrementAt, toTick } from '../market/increment'
import { localDate, sessionsBetween } from '../market/venue'
import { planOrderId } from '../plans/ids'
import { type Then } from '../plans/exits'
import { HOLDS } from '../rules'
import { clockOf } from './clock'
import { type Held, type OwnExit, valueOf } from './state'
import { closeBoth, closeHeld, say, type Stepping } from './want'
import { daysLeft, netGain } from './whole'

/** What is held of a security is closed once its time has come, or where its rule holds; its stop is moved. */
export function watchHeld(stepping: Stepping, symbol: string, bar?: { time: number; end: number }): void {
  const { prepared, state } = stepping
  const held = state.held[symbol]
  if (!held || held.quantity === 0) return
  const { then } = prepared.sides[held.side].side
  if (leaveOn(stepping, symbol)) return
  if (leaveInTime(stepping, symbol, held, then)) return
  if (bar && then.leaveIf && valueOf(prepared, held.side, symbol, then.leaveIf) === HOLDS) {
    closeBoth(stepping, held.side, symbol, `its rule at ${bar.time} ${tradeOf(stepping, symbol)}`)
    return
  }
  if (then.net && leaveByNet(stepping, symbol, held, then.net)) return
  if (then.moves && !held.legs) moveStops(stepping, symbol, held, then, bar)
}

/** What is being left and is still held is left on, while the venue is open. */
function leaveOn(stepping: Stepping, symbol: string): boolean {
  const { prepared, state, at } = stepping
  const signal = state.leaving[symbol]
  if (signal === undefined) return false
  if (clockOf(prepared.listed[symbol].venue).at(at).state !== 'Open') return true
  return closeHeld(stepping, symbol, signal)
}

/** Number of the trade that is under way: one that begins after another has ended is closed too. */
const tradeOf = ({ state: { ended } }: Stepping, symbol: string): number => (ended[symbol]?.length ?? 0) + 1

/** Closes several legs once they have gained, or lost, so much of their net price. */
function leaveByNet(
  stepping: Stepping,
  symbol: string,
  held: Held,
  { gain = Infinity, loss = Infinity }: NonNullable<Then['net']>,
): boolean {
  const { prepared, shared, at } = stepping
  const { date, state } = clockOf(prepared.listed[symbol].venue).at(at)
  const gained = netGain(shared, held)
  if (state !== 'Open' || !(gained >= gain || gained <= -loss)) return false
  return closeHeld(stepping, symbol, `its net price on ${date} ${tradeOf(stepping, symbol)}`)
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
    if ((state.held[symbol]?.quantity ?? 0) !== 0) continue
    for (const id of state.working[mate] ?? []) {
      const own = state.orders[id]
      if (own.role !== 'entry' || own.asked === 'gone' || own.orderId === undefined) continue
      own.asked = 'gone'
      say(stepping, { is: 'cancel', symbol: mate, clOrdId: own.clOrdId ?? id })
    }
    closeHeld(stepping, mate, `without ${symbol} ${tradeOf(stepping, mate)}`)
  }
}

/** Moves the stops of what is held where the plan says so: only ever nearer. */
function moveStops(
  stepping: Stepping,
  symbol: string,
  held: Held,
  { moves = [] }: Then,
  bar?: { time: number; end: number },
): void {
  const { prepared, shared } = stepping
  const way = Math.sign(held.quantity)
  const fill = Math.abs(held.paid / held.quantity)
  const quote = shared.quotes[symbol]
  if (quote) held.gain = Math.max(held.gain, way * (quote.last - fill))
  const stops = stopsOf(stepping, symbol)
  if (stops.length === 0) return
  held.risk ??= Math.abs(fill - (stops[0].stopPx ?? fill))
  const seasons = bar !== undefined && held.opened < bar.end && bar.end !== Infinity
  const first = seasons && !held.seasoned
  if (seasons) held.seasoned = true
  const bands = prepared.listed[symbol].security.increments
  for (const { when, to } of moves) {
    const due =
      when === 'EntryBar' ? first : when === 'EveryBar' ? seasons : held.gain >= gainOf(when.gain, held, fill)
    if (!due) continue
    const level = to === 'Fill' ? fill : valueOf(prepared, held.side, symbol, to.level)
    if (!(level > 0)) continue
    const stopPx = toTick(bands, level)
    for (const stop of stops) moveOne(stepping, symbol, stop, stopPx, way)
  }

  function gainOf(
    gain: { percent: number } | { ticks: number } | { risk: number },
    { risk = NaN }: Held,
    from: number,
  ) {
    if ('percent' in gain) return (from * gain.percent) / 100
    return 'ticks' in gain ? gain.ticks * incrementAt(bands, from) : gain.risk * risk
  }

  function moveOne(of: Stepping, one: string, stop: OwnExit, stopPx: number, up: number) {
    const stands = stop.asked ?? stop.stopPx
    if (stands === undefined || up * (stopPx - stands) <= 0) return
    // One that the price has passed already would be refused: the stop leaves where it stands.
    if (quote && up * (quote.last - stopPx) <= 0) return
    const { plan } = of.prepared
    const date = localDate(of.prepared.listed[one].venue, of.at)
    const parts = { planId: plan.id, symbol: one, date, leg: 0, role: 'move' as const }
    const clOrdId = planOrderId({ ...parts, signal: `${stop.clOrdId} ${stopPx}` })
    stop.asked = stopPx
    say(of, { is: 'replace', symbol: one, clOrdId: stop.clOrdId, change: { clOrdId, stopPx } })
  }
}

/** Stops that the broker holds for what the plan holds of a security. */
function stopsOf({ state: { orders, bySymbol } }: Stepping, symbol: string): OwnExit[] {
  return (bySymbol[symbol] ?? []).flatMap((id) =>
    Object.values(orders[id].exits ?? {}).filter(({ role, works }) => role === 'Stop' && works),
  )
}
