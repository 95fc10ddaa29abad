import { type Book } from '@/core/book/book'
import { type Whole } from '@/core/book/wholes'
import { allWorking, numberOf, type Working } from '@/core/book/working'
import { type Session } from '@/core/market/venue'
import { type Side } from '@/core/orders/legs'
import { isRequested } from '@/core/orders/model'
import { netE4 } from '@/core/orders/netPrice'
import { type Auction, meetAuction } from '@/core/venue/auction'
import { type Seat, workingNow } from '@/core/venue/seat'
import { CLOSED_BEFORE } from '@/core/venue/expiry'
import { mayTouch } from '@/core/venue/match'
import { endSession } from '@/core/venue/orders'
import { meetSecond } from '@/core/venue/trade'
import { meetWhole, passesNet } from '@/core/venue/wholes'
import { type Market } from '../market/market'
import { type Facts } from './facts'

const MINUTE = 60_000

/** Turning points of a session: its open, 15 minutes before its close, its close. */
export type Turn = 'open' | 'closing' | 'closed'

/** The next turning point of a venue after a moment. */
function nextTurn(market: Market, after: number): { market: Market; session: Session; is: Turn; at: number } {
  const session = market.nextSession(after)
  const { open, close } = session
  if (open > after) return { market, session, is: 'open', at: open }
  const closing = close - CLOSED_BEFORE
  return closing > after
    ? { market, session, is: 'closing', at: closing }
    : { market, session, is: 'closed', at: close }
}

/**
 * Lets the markets run past the working orders of an account: brings them together with the seconds of their venues, in time
 * order whatever venue they are at. What comes of it is said by core/venue.
 */
export class Running {
  /** Shares of the book that were taken and have not come back by a second, by symbol and side. */
  private readonly taken = new Map<string, { second: number; quantity: number }>()

  constructor(
    private readonly markets: readonly Market[],
    private readonly marketOf: (symbol: string) => Market,
    private readonly facts: Facts,
    private readonly seat: Seat,
    /** Does what was asked of an order, once it was shown a second. */
    private readonly answer: (orderId: string, second: number) => void,
    /** Called at each turning point of a session: at the open before anything trades, at the close after everything has. */
    private readonly turned: (market: Market, session: Session, is: Turn) => void,
  ) {}

  private get book(): Book {
    return this.seat.book
  }

  /**
   * From one moment to a later one: each second of a session in which an order might trade, the auctions, and the end of
   * what ends with a session.
   */
  advance(from: number, to: number): void {
    for (let at = from; at < to;) {
      // The next turn of any venue: between two of them the same venues are open.
      const next = this.markets.map((market) => nextTurn(market, at))
      const turn = Math.min(...next.map((one) => one.at))
      this.live(at + 1000, Math.min(to, turn - 1000))
      if (turn > to) return
      for (const { market, session, is } of next.filter((one) => one.at === turn)) {
        const { date } = session
        const isHere = (symbol: string) => this.marketOf(symbol) === market
        if (is !== 'closed') this.turned(market, session, is)
        if (is === 'open') this.auction(market, 'AtTheOpening', session, turn)
        if (is !== 'closed') continue
        this.auction(market, 'AtTheClose', session, turn)
        endSession(this.seat, date, turn, isHere)
        this.turned(market, session, 'closed')
      }
      this.live(turn, turn)
      at = turn
    }
  }

  /** The auction that opens or closes a session, for the orders that wait for it. */
  private auction(market: Market, kind: Auction['kind'], session: Session, at: number): void {
    for (const [symbol, orders] of Object.entries(this.book.working)) {
      if (this.marketOf(symbol) !== market || !orders.some((order) => order.auction === kind)) continue
      const listed = market.find(symbol)!
      const minutes = market.minutesOf(listed, session)
      const opens = kind === 'AtTheOpening'
      const priceE4 = opens ? minutes.open[0] : minutes.close.at(-1)!
      // At the open nobody knows the volume of the first minute, so the auction uses that of the session before.
      const before = opens ? market.sessionsBegunBy(session.open - 1).at(-1) : undefined
      const volume = opens ? market.minutesOf(listed, before ?? session).volume[0] : minutes.volume.at(-1)!
      meetAuction(this.seat, symbol, { kind, priceE4, volume }, at)
    }
  }

  private live(start: number, end: number): void {
    if (end < start || allWorking(this.book.working).next().done) return
    if (!this.markets.some((market) => market.sessionAt(start))) return
    for (let minute = Math.floor(start / MINUTE) * MINUTE; minute <= end; minute += MINUTE) {
      const last = Math.min(end, minute + MINUTE - 1000)
      const orders = this.ordersThatMatter(minute)
      if (orders.length === 0) continue
      for (let second = Math.max(start, minute); second <= last; second += 1000)
        for (const orderId of orders) {
          this.work(orderId, second)
          if (isRequested(this.book.orders[orderId].ordStatus)) this.answer(orderId, second)
        }
    }
  }

  /** Orders that might trade within a minute, by its bar, and what is attached to them; oldest first. */
  private ordersThatMatter(minute: number): string[] {
    const { working, attached, waiting } = this.book
    const found = new Map<string, Working>()
    const sessions = new Map(this.markets.map((market) => [market, market.sessionAt(minute)]))
    for (const symbol in working) {
      const market = this.marketOf(symbol)
      const session = sessions.get(market)
      if (!session) continue
      const bar = market.rangeOf(market.find(symbol)!, session, Math.round((minute - session.open) / MINUTE))
      for (const order of working[symbol]) {
        if (order.pending || !(order.requested || mayTouch(order, bar))) continue
        found.set(order.orderId, order)
        for (const id of [...(attached[order.orderId] ?? []), ...(waiting[order.orderId] ?? [])]) {
          const other = workingNow(this.seat, id)
          if (other) found.set(id, other)
        }
      }
    }
    const ids = [...found.keys(), ...this.wholesThatMatter(sessions, minute)]
    return ids.sort((a, b) => numberOf(a) - numberOf(b))
  }

  /** Ids of multi-leg orders that might trade within a minute. */
  private wholesThatMatter(sessions: ReadonlyMap<Market, Session | undefined>, minute: number): string[] {
    return Object.values(this.book.wholes).flatMap((whole) => {
      const market = this.marketOf(whole.symbol)
      const session = sessions.get(market)
      const { ordStatus } = this.book.orders[whole.orderId]
      if (!session || ordStatus === 'PendingNew') return []
      const row = Math.round((minute - session.open) / MINUTE)
      const rangeOf = (symbol: string) => market.rangeOf(market.find(symbol)!, session, row)
      const best = netE4(whole.legs, ({ symbol, legSide }) =>
        legSide === 'Buy' ? rangeOf(symbol).low : rangeOf(symbol).high,
      )
      return isRequested(ordStatus) || passesNet(whole, best) || whole.atOnce !== 'no' ? [whole.orderId] : []
    })
  }

  /** Shows an order the book of a second, if it may still trade and its venue is open. */
  work(orderId: string, second: number): void {
    const { symbol } = this.book.orders[orderId]
    const market = this.marketOf(symbol)
    if (!market.sessionAt(second) || this.facts.isHalted(symbol, second)) return
    const whole = this.book.wholes[orderId]
    if (whole) return this.workWhole(whole, market, second)
    const order = workingNow(this.seat, orderId)
    if (!order || order.pending || order.auction !== 'no') return
    const quote = this.facts.quoteOf(market.find(symbol)!, second)
    const key = keyOf(symbol, order.side)
    const taken = this.takenOf(key, symbol, second)
    const quantity = meetSecond(this.seat, order, quote, second, taken)
    if (quantity > 0) this.taken.set(key, { second, quantity: taken + quantity })
  }

  /**
   * Shares of the book that are gone at a second. What was taken comes back at the pace at which the security trades, so that
   * in the long run the account takes no more than is traded.
   */
  private takenOf(key: string, symbol: string, second: number): number {
    const before = this.taken.get(key)
    if (!before) return 0
    const market = this.marketOf(symbol)
    const back = market.tradedIn(market.find(symbol)!, before.second, second)
    if (back < before.quantity) return Math.ceil(before.quantity - back)
    this.taken.delete(key)
    return 0
  }

  /** Shows a multi-leg order the books of its legs at a second, of which some may be taken already. */
  private workWhole(whole: Whole, market: Market, second: number): void {
    if (this.book.orders[whole.orderId].ordStatus === 'PendingNew') return
    const shownOf = (symbol: string) => {
      const quote = this.facts.quoteOf(market.find(symbol)!, second)
      const left = (size: number, side: Side) =>
        Math.max(0, size - this.takenOf(keyOf(symbol, side), symbol, second))
      return { ...quote, bidSize: left(quote.bidSize, 'Sell'), askSize: left(quote.askSize, 'Buy') }
    }
    const units = meetWhole(this.seat, whole, shownOf, second)
    if (units === 0) return
    for (const { symbol, legSide, legRatioQty } of whole.legs) {
      const key = keyOf(symbol, legSide)
      this.taken.set(key, { second, quantity: this.takenOf(key, symbol, second) + units * legRatioQty })
    }
  }
}

const keyOf = (symbol: string, side: Side): string => `${symbol} ${side === 'Buy' ? 'ask' : 'bid'}`
