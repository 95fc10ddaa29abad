import { toTick } from '../market/increment'
import { localDate } from '../market/venue'
import { planOrderId } from '../plans/ids'
import { goneFrom } from './gone'
import { type Held, type OwnExit, valueOf } from './state'
import { say, type Stepping } from './want'

/** Moves the stops of what is held where the plan says so, or where it adds and all go to the newest: only ever nearer. */
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
  const stops = stopsOf(stepping, symbol)
  if (stops.length === 0) return
  // A stop that the broker has only just taken has no price yet.
  const [{ stopPx: first }] = stops
  if (first !== undefined) held.risk ??= Math.abs(fill - first)
  const seasons = bar !== undefined && held.opened < bar.end && bar.end !== Infinity
  const isFirst = seasons && !held.seasoned
  if (seasons) held.seasoned = true
  const bands = prepared.listed[symbol].security.increments
  for (const { when, to } of moves) {
    const isGain = typeof when === 'object'
    const due = isGain
      ? held.gain >= goneFrom(when.gain, fill, bands, held.risk)
      : when === 'EntryBar'
        ? isFirst
        : seasons
    if (!due) continue
    const level = to === 'Fill' ? fill : valueOf(prepared, held.side, symbol, to.level)
    if (level > 0) moveAll(stepping, symbol, stops, toTick(bands, level))
  }
  const newest = adds?.stops === 'Newest' ? stops.at(-1)?.stopPx : undefined
  if (newest !== undefined) moveAll(stepping, symbol, stops, newest)
}

/** Moves stops to a price, but none back, and none to where the price has been already: the broker would refuse that. */
function moveAll(stepping: Stepping, symbol: string, stops: readonly OwnExit[], stopPx: number): void {
  const { prepared, state, shared, at } = stepping
  const way = Math.sign(state.held[symbol].quantity)
  const quote = shared.quotes[symbol]
  if (quote && way * (quote.last - stopPx) <= 0) return
  const date = localDate(prepared.listed[symbol].venue, at)
  const parts = { planId: prepared.plan.id, symbol, date, leg: 0, role: 'move' as const }
  for (const stop of stops) {
    const stands = stop.asked ?? stop.stopPx
    if (stands === undefined || way * (stopPx - stands) <= 0) continue
    const clOrdId = planOrderId({ ...parts, signal: `${stop.clOrdId} ${stopPx}` })
    stop.asked = stopPx
    say(stepping, { is: 'replace', symbol, clOrdId: stop.clOrdId, change: { clOrdId, stopPx } })
  }
}

/** Stops that the broker holds for what the plan holds of a security, the newest order's last. */
function stopsOf({ state: { orders, bySymbol } }: Stepping, symbol: string): OwnExit[] {
  return (bySymbol[symbol] ?? []).flatMap((id) =>
    Object.values(orders[id].exits ?? {}).filter(({ role, works }) => role === 'Stop' && works),
  )
}
