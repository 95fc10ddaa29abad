import { type NewOrder } from '../orders/model'

const MINUTE = 60_000

/** What the account has taken lately, so that nobody has to look through its past. */
export interface Lately {
  /** Session date; with another one it begins anew. */
  date: string
  /** Opening orders by symbol. */
  entries: Record<string, number>
  /** When the last order of a security, side and quantity came; epoch milliseconds. */
  same: Record<string, number>
  /** Seconds of the last minute in which orders came, and how many, oldest first. */
  minute: [second: number, count: number][]
}

export const noneLately = (date = ''): Lately => ({ date, entries: {}, same: {}, minute: [] })

/** How many orders came in the last minute. */
export const countInMinute = ({ minute }: Lately, at: number): number =>
  minute.reduce((sum, [second, count]) => (second > at - MINUTE ? sum + count : sum), 0)

/** Adds an order to those of its second; those of more than a minute ago are dropped. */
function countOne({ minute }: Lately, at: number): void {
  const last = minute.at(-1)
  if (last?.[0] === at) last[1]++
  else {
    minute.push([at, 1])
    while (minute[0][0] <= at - MINUTE) minute.shift()
  }
}

/** What makes two orders the same. */
export const sameKey = ({
  symbol,
  side,
  orderQty,
  legs,
}: Pick<NewOrder, 'symbol' | 'side' | 'orderQty' | 'legs'>) =>
  `${legs ? legs.map((leg) => `${leg.legSide} ${leg.legRatioQty} ${leg.symbol}`).join(', ') : `${side} ${symbol}`} ${orderQty}`

/** Notes an order that was taken. `opening` says whether it would open or add to a position. */
export function noteTaken(
  book: { lately: Lately },
  order: Pick<NewOrder, 'symbol' | 'side' | 'orderQty' | 'legs'>,
  opening: boolean,
  at: number,
  date: string,
): void {
  if (book.lately.date !== date) book.lately = { ...noneLately(date), minute: book.lately.minute }
  const { entries, same } = book.lately
  if (opening) entries[order.symbol] = (entries[order.symbol] ?? 0) + 1
  same[sameKey(order)] = at
  countOne(book.lately, at)
}

/** Takes back the note of an order that was expected at a moment and did not come, or that is noted itself now. */
export function noteGone(
  { lately }: { lately: Lately },
  { symbol }: Pick<NewOrder, 'symbol'>,
  opening: boolean,
  at: number,
): void {
  const { entries, minute } = lately
  if (opening && entries[symbol] > 0) entries[symbol]--
  const second = minute.find(([moment]) => moment === at)
  if (second && second[1] > 0) second[1]--
}
