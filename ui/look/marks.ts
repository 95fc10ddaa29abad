import { useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import { type Bars } from '@/core/market/bars'
import { dateIn, endOfDate } from '@/core/market/moments'
import { priceText } from '@/core/market/money'
import { isIntraday } from '@/core/market/timeframe'
import { type Order } from '@/core/orders/model'
import { useBroker, useOrders } from '../link/LinkProvider'

/** Something that happened at a bar, and how it is said. */
export type Mark = { row: number; said: string } & (
  | { kind: 'fill'; price: number; side: 'Buy' | 'Sell' }
  | { kind: 'order'; price: number }
  | { kind: 'earnings' | 'action' }
)

/** Row of the bar in which a moment lies; undefined before the first. */
export function rowOf(bars: Bars, moment: number): number | undefined {
  let [low, high] = [0, bars.time.length - 1]
  if (high < 0 || moment < bars.time[0]) return undefined
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (bars.time[middle] <= moment) low = middle
    else high = middle - 1
  }
  return low
}

/** What comes in the night after the last bar still stands at it; what comes later belongs to bars that are not here. */
const AFTER = 20 * 3_600_000

/** Whether a moment is one of these bars, or of the night after the last: not where the bars end before it. */
export function holds(bars: Bars, moment: number): boolean {
  const last = bars.time.length - 1
  return last >= 0 && moment >= bars.time[0] && moment <= bars.end[last] + AFTER
}

/** Row of the bar that holds a date in the zone of the bars: the first of that day, or the longer bar it lies in. */
export function rowOnDate(bars: Bars, date: string): number | undefined {
  const last = rowOf(bars, endOfDate(date, bars.zone) - 1)
  if (last === undefined || !isIntraday(bars.every)) return last
  if (dateIn(bars.time[last], bars.zone) !== date) return undefined
  let row = last
  while (row > 0 && dateIn(bars.time[row - 1], bars.zone) === date) row--
  return row
}

/** Row of a moment that is among these bars. */
const heldRow = (bars: Bars, moment: number) => (holds(bars, moment) ? rowOf(bars, moment) : undefined)

const ENDED: ReadonlySet<string> = new Set(['Canceled', 'Rejected', 'Expired', 'DoneForDay'])

function ofOrders(bars: Bars, symbol: string, orders: readonly Order[]): Mark[] {
  const out: Mark[] = []
  for (const order of orders) {
    // A net price of several legs is no price of the security.
    if (order.legs || order.symbol !== symbol) continue
    for (const state of order.chain) {
      const row = heldRow(bars, Date.parse(state.at))
      if (row === undefined || state.lastPx === undefined) continue
      const said = `${order.side === 'Buy' ? 'bought' : 'sold'} ${state.lastQty} at ${priceText(state.lastPx)}`
      out.push({ kind: 'fill', row, price: state.lastPx, side: order.side === 'Buy' ? 'Buy' : 'Sell', said })
    }
    const resting = order.price ?? order.stopPx
    const row = heldRow(bars, Date.parse(order.enteredTime))
    // What was canceled or refused before it traded is nothing that stands there.
    const isGone = order.cumQty === 0 && ENDED.has(order.ordStatus)
    if (!isGone && order.role === 'Entry' && resting !== undefined && row !== undefined)
      out.push({
        kind: 'order',
        row,
        price: resting,
        said: `order to ${order.side === 'Buy' ? 'buy' : 'sell'} ${order.orderQty} at ${priceText(resting)}`,
      })
  }
  return out
}

/** Orders, fills, reports of earnings, splits and dividends of a security, on its bars. */
export function useMarks(symbol: string, bars: Bars | undefined, own: boolean): readonly Mark[] {
  const broker = useBroker()
  const orders = useOrders('all').data
  const events = useQuery({
    queryKey: ['events', symbol],
    enabled: !own,
    staleTime: 60_000,
    queryFn: async () => ({
      actions: await broker.actions(symbol),
      reports: (await broker.reports([symbol]))[symbol] ?? [],
    }),
  }).data
  return useMemo(() => {
    if (!bars || own) return []
    const out = ofOrders(bars, symbol, orders ?? [])
    for (const action of events?.actions ?? []) {
      const row = holds(bars, endOfDate(action.exDate, bars.zone) - 1)
        ? rowOnDate(bars, action.exDate)
        : undefined
      const said =
        action.kind === 'Split'
          ? `split, ${action.ratio} for 1`
          : `dividend of ${priceText(action.amount)} (ex-date)`
      if (row !== undefined) out.push({ kind: 'action', row, said })
    }
    for (const report of events?.reports ?? []) {
      const row = heldRow(bars, report.known)
      if (row !== undefined && report.eps !== undefined)
        out.push({
          kind: 'earnings',
          row,
          said: `earnings reported: ${priceText(report.eps)} a share over a year`,
        })
    }
    return out
  }, [bars, symbol, orders, events, own])
}
