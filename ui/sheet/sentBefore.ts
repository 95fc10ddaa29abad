import { type OrderDraft } from '@/core/orders/draft'
import { isWorking, type Order, type OrderChange } from '@/core/orders/model'

/** Whether the order that stands under the id of a row is what the row says; a size that is no number of shares may come to another. */
export function isLike(row: OrderDraft, order: Order): boolean {
  const { sizing } = row
  return (
    row.symbol === order.symbol &&
    row.side === order.side &&
    row.ordType === order.ordType &&
    row.timeInForce === order.timeInForce &&
    row.price === order.price &&
    (row.stopPx === undefined || row.stopPx === order.stopPx) &&
    (sizing.by !== 'shares' || sizing.shares === order.orderQty) &&
    inWords(row.exits) === inWords(order.exits)
  )
}

/** Whether an order can still be changed into what a row says: its quantity and its prices can, nothing else. */
export const mayBecome = (row: OrderDraft, order: Order): boolean =>
  isWorking(order.ordStatus) &&
  row.symbol === order.symbol &&
  row.side === order.side &&
  row.ordType === order.ordType &&
  inWords(row.exits) === inWords(order.exits) &&
  (row.sizing.by !== 'shares' || row.sizing.shares > order.cumQty)

/** The change that makes an order what a row says. */
export const changeInto = (
  { sizing, price, stopPx, timeInForce }: OrderDraft,
  order: Order,
): OrderChange => ({
  clOrdId: `${order.clOrdId.slice(0, 60)}.${Date.now().toString(36).slice(-4)}`,
  ...(sizing.by === 'shares' && sizing.shares !== order.orderQty ? { orderQty: sizing.shares } : {}),
  ...(price !== undefined && price !== order.price ? { price } : {}),
  ...(stopPx !== undefined && stopPx !== order.stopPx ? { stopPx } : {}),
  ...(timeInForce !== order.timeInForce && (timeInForce === 'Day' || timeInForce === 'GoodTillCancel')
    ? { timeInForce }
    : {}),
})

/** The same levels in the same words, whatever order their fields are in. */
function inWords(value: unknown): string {
  if (typeof value !== 'object' || value === null) return JSON.stringify(value) ?? ''
  const fields = Object.entries(value).filter(([, one]) => one !== undefined)
  return `{${fields
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([name, one]) => `${name}:${inWords(one)}`)
    .join()}}`
}
