import { toTick } from '../market/increment'
import { localDate } from '../market/venue'
import { planOrderId } from '../plans/ids'
import { goneFrom } from './gone'
import { heldValue } from './prepare'
import { type Held, type OwnExit } from './state'
import { say, type Stepping } from './want'

/** Moves stops and targets of what is held where the plan says so; where it adds and all stops go to the newest, those too. Stops only ever nearer. */
export function moveStops(
  stepping: Stepping,
  symbol: string,
  held: Held,
  bar?: { time: number; end: number },
): void {
  const { prepared, shared } = stepping
  const { then, do: deed } = prepared.sides[held.side].side
  const { moves = [] } = then
  const adds = 'open' in deed ? deed.adds : undefined
  if (moves.length === 0 && !adds) return
  const fill = Math.abs(held.paid / held.quantity)
  const quote = shared.quotes[symbol]
  if (quote) held.gain = Math.max(held.gain, Math.sign(held.quantity) * (quote.last - fill))
  const stops = exitsOf(stepping, symbol, 'Stop')
  // A stop that the broker has only just taken has no price yet.
  const first = stops.at(0)?.stopPx
  if (first !== undefined) held.risk ??= Math.abs(fill - first)
  const seasons = bar !== undefined && held.opened < bar.end && bar.end !== Infinity
  const isFirst = seasons && !held.seasoned
  if (seasons) held.seasoned = true
  const bands = prepared.listed[symbol].security.increments
  for (const { of, when, to } of moves) {
    const isGain = typeof when === 'object'
    const due = isGain
      ? held.gain >= goneFrom(when.gain, fill, bands, held.risk)
      : when === 'EntryBar'
        ? isFirst
        : seasons
    if (!due) continue
    const level = to === 'Fill' ? fill : heldValue(prepared, held.side, symbol, to.level)
    if (!(level > 0)) continue
    if (of === 'Stop') moveStop(stepping, symbol, stops, toTick(bands, level))
    else moveTarget(stepping, symbol, toTick(bands, level))
  }
  const newest = adds?.stops === 'Newest' ? stops.at(-1)?.stopPx : undefined
  if (newest !== undefined) moveStop(stepping, symbol, stops, newest)
}

/** Moves stops to a price, but none back, and none to where the price has been already: the broker would refuse that. */
function moveStop(stepping: Stepping, symbol: string, stops: readonly OwnExit[], stopPx: number): void {
  const { state, shared } = stepping
  const way = Math.sign(state.held[symbol].quantity)
  const quote = shared.quotes[symbol]
  if (quote && way * (quote.last - stopPx) <= 0) return
  for (const stop of stops) {
    const stands = stop.asked ?? stop.stopPx
    if (stands === undefined || way * (stopPx - stands) <= 0) continue
    move(stepping, symbol, stop, stopPx, { stopPx })
  }
}

/** Moves targets to a price, to either side; one that the price has come to already is filled. */
function moveTarget(stepping: Stepping, symbol: string, price: number): void {
  for (const target of exitsOf(stepping, symbol, 'Target'))
    if ((target.asked ?? target.price) !== price) move(stepping, symbol, target, price, { price })
}

function move(
  stepping: Stepping,
  symbol: string,
  exit: OwnExit,
  to: number,
  change: { stopPx: number } | { price: number },
): void {
  const { prepared, at } = stepping
  // Where a hand has put it, it stays.
  if (exit.left) return
  const date = localDate(prepared.listed[symbol].venue, at)
  const parts = { planId: prepared.plan.id, symbol, date, leg: 0, role: 'move' as const }
  const clOrdId = planOrderId({ ...parts, signal: `${exit.clOrdId} ${to}` })
  exit.asked = to
  say(stepping, { is: 'replace', symbol, clOrdId: exit.clOrdId, change: { clOrdId, ...change } })
}

/** Exits that the broker holds for what the plan holds of a security, the newest order's last. */
export function exitsOf(
  { state: { orders, bySymbol } }: Stepping,
  symbol: string,
  role: OwnExit['role'],
): OwnExit[] {
  return (bySymbol[symbol] ?? []).flatMap((id) =>
    Object.values(orders[id].exits ?? {}).filter((one) => one.role === role && one.works),
  )
}
