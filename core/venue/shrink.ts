import { sharesOf } from '../book/book'
import { type Working } from '../book/working'
import { isWorking } from '../orders/model'
import { type Seat, orderOf, report } from './seat'

/**
 * After a trade that made a position smaller: what would close it may rest on the same shares, stops and targets beside
 * closes by hand, but neither kind more than is held. The exits of the oldest entries shrink first, since the oldest
 * shares are closed first; of closes by hand the youngest. `closing` is the side that closes what was held: while a
 * position is short every Buy covers it.
 */
export function shrinkCloses(seat: Seat, symbol: string, closing: 'Buy' | 'Sell', at: number): void {
  const held = Math.abs(sharesOf(seat.book, symbol))
  const working = (seat.book.working[symbol] ?? []).filter((one) => !one.pending)
  shrinkExits(seat, working, held, at)
  let left = held
  for (const one of working) {
    if (one.role !== 'Entry' || one.side !== closing) continue
    const keep = Math.min(one.leavesQty, left)
    left -= keep
    if (keep < one.leavesQty) shrink(seat, one, keep, at)
  }
}

function shrinkExits(seat: Seat, working: readonly Working[], held: number, at: number): void {
  // By entry, then by part of its position.
  const groups = new Map<string, Map<number, Working[]>>()
  for (const one of working) {
    if (one.role !== 'Stop' && one.role !== 'Target') continue
    const parts = groups.get(one.group) ?? new Map<number, Working[]>()
    groups.set(one.group, parts.set(one.part, [...(parts.get(one.part) ?? []), one]))
  }
  let left = held
  for (const [entryId, parts] of [...groups].sort(([a], [b]) => Number(b.slice(1)) - Number(a.slice(1)))) {
    let kept = 0
    for (const exits of [...parts.values()].toReversed()) {
      const keep = Math.min(Math.max(...exits.map((one) => one.leavesQty)), left)
      left -= keep
      kept += keep
      for (const one of exits) if (one.leavesQty > keep) shrink(seat, one, keep, at)
    }
    const entry = orderOf(seat, entryId)
    if (kept === 0 && isWorking(entry.ordStatus))
      report(seat, entryId, 'Canceled', 'Canceled', at, {
        leavesQty: 0,
        text: 'what it had filled was closed, and its exits with it',
      })
  }
}

/** Leaves so much of an order, or ends it. */
function shrink(seat: Seat, { orderId }: Working, leavesQty: number, at: number): void {
  const order = orderOf(seat, orderId)
  if (leavesQty === 0)
    report(seat, orderId, 'Canceled', 'Canceled', at, {
      leavesQty: 0,
      text: 'nothing is held any more that it would close',
    })
  else
    report(seat, orderId, 'Restated', order.ordStatus, at, { orderQty: order.cumQty + leavesQty, leavesQty })
}
