import { type Book, sharesOf } from '@/core/book/book'
import { promisedIn } from '@/core/book/sums'
import { fromE4, priceText } from '@/core/market/money'
import { isOption, underlyingOf } from '@/core/options/osi'
import { checkOrder, type OrderFacts } from '@/core/orders/check'
import { type Finding, refusal } from '@/core/orders/findings'
import {
  type ExecutionReport,
  type NewOrder,
  type Order,
  type OrderChange,
  type SentOrder,
  ON_REQUEST,
} from '@/core/orders/model'
import { sayFinding } from '@/core/orders/say'
import { standingStatus } from '@/core/orders/states'
import { type ExpiryNotice } from '@/core/orders/views'
import { type Hindrance, hindranceOf } from '@/core/venue/delivery'
import { inTheMoney, settle, worthE4 } from '@/core/venue/exercise'
import { outlook } from '@/core/venue/expiry'
import { type Seat, type Place } from '@/core/venue/seat'
import { approve, askCancel, cancel, decline, submit } from '@/core/venue/orders'
import {
  asChanged,
  askReplace,
  concerns,
  notReplaceable,
  type NotReplaceable,
  refuseReplace,
  replace,
  workingWithout,
} from '@/core/venue/replace'
import { type Listed } from '../market/listing'
import { type Market } from '../market/market'
import { Facts, type Listing, NO_OVERLAY, type Overlay } from './facts'
import { Running } from './running'
import { Sessions, type Told } from './sessions'

/** What came of a wish to change an order. */
type Changed = { order: Order } | { hindered: NotReplaceable } | { findings: Finding[]; refused: Finding }

/** What came of a wish to exercise contracts. */
export type Exercised = { order: Order } | { hindered: 'closed' | 'not held' | Hindrance; free?: number }

/**
 * One account at the stand-in market: brings its working orders together with the seconds of the market (core/venue says
 * what comes of it). Everything that happens is an execution report, handed to `emit`, which puts it into the journal.
 * Holds nothing else that matters: the book is all there is to restore.
 */
export class Exchange {
  private readonly fresh: string[] = []
  private readonly seat: Seat
  private readonly facts: Facts
  private readonly running: Running
  private readonly sessions: Sessions
  private readonly manners: 'prompt' | 'slow'
  /** The venue of the account's currency: its dates are the account's. */
  readonly market: Market

  constructor(
    private readonly markets: Listing,
    readonly book: Book,
    emit: (report: ExecutionReport) => void,
    /** Prompt: what is asked of an order is done at once; slow: after the next second, and a fill may come before. */
    { manners, overlay }: { manners: 'prompt' | 'slow'; overlay: Overlay } = {
      manners: 'prompt',
      overlay: NO_OVERLAY,
    },
    /** Told what moves money without a trade, and the figures of each day. */
    told: Told = { booking: () => undefined, day: () => undefined, expiring: () => undefined },
  ) {
    this.manners = manners
    this.market = markets.all.find(({ venue }) => venue.currency === book.rules.currency) ?? markets.home
    this.facts = new Facts(markets, this.market, overlay)
    const listed = (symbol: string) => this.listed(symbol)
    const place: Place = {
      lotOf: (symbol) => listed(symbol).lot,
      bandsOf: (symbol) => listed(symbol).increments,
      pricesOf: (symbol, at) => this.facts.quoteOf(listed(symbol), at),
      currencyOf: (symbol) => listed(symbol).currency,
      settlesAt: (at, symbol) => this.facts.settles(at, this.marketOf(symbol)),
      stampOf: (at, symbol) => {
        const transactTime = this.facts.stampOf(this.marketOf(symbol))(at)
        return { transactTime, tradeDate: transactTime.slice(0, 10) }
      },
    }
    this.seat = { book, place, tell: emit }
    const answer = (orderId: string, second: number) => this.answer(orderId, second)
    this.sessions = new Sessions(markets, this.market, this.seat, this.facts, told)
    const marketOf = (symbol: string) => this.marketOf(symbol)
    this.running = new Running(markets.all, marketOf, this.facts, this.seat, answer, this.sessions.turned)
  }

  private readonly homes = new Map<string, { listed: Listed; market: Market }>()

  /** A security and its venue; of a symbol that names none the account's own venue. */
  private homeOf(symbol: string): { listed?: Listed; market: Market } {
    const known = this.homes.get(symbol)
    if (known) return known
    const listed = this.markets.find(symbol)
    if (!listed) return { market: this.market }
    const home = { listed, market: this.markets.of(listed) }
    this.homes.set(symbol, home)
    return home
  }

  private listed = (symbol: string): Listed => this.homeOf(symbol).listed!
  private marketOf = (symbol: string): Market => this.homeOf(symbol).market

  /** What an order would be checked against now. */
  factsFor = (order: NewOrder, now: number): OrderFacts => this.facts.factsFor(this.book, order, now)

  /** Prices of any security of the account at a moment, each looked up once. */
  pricesAt = (now: number) => this.facts.pricesAt(now)

  check(sent: SentOrder, now: number): Finding[] {
    const order = this.facts.sized(sent, now)
    return checkOrder(order, this.facts.factsFor(this.book, order, now))
  }

  /** Changes a working order, or says why not: what is in the way of it, or what was found when it was checked. */
  replace(order: Order, change: OrderChange, now: number): Changed {
    const hindered = notReplaceable(order, change)
    if (hindered) return { hindered }
    if (!this.answersLater(order, now)) return this.change(order, change, now)
    const { findings, refused } = this.checkChange(order, change, now)
    return refused ? { findings, refused } : { order: askReplace(this.seat, order, change, now) }
  }

  private checkChange(order: Order, change: OrderChange, now: number) {
    const changed = asChanged(order, change)
    const others = { ...this.book, working: workingWithout(this.book, order) }
    const facts = { ...this.facts.factsFor(others, changed, now, true), filled: order.cumQty }
    // An id that was asked for already stands for this order.
    const own = this.book.byClOrdId[change.clOrdId] === order.orderId && order.asked !== undefined
    const findings = checkOrder(changed, { ...facts, clOrdIdTaken: facts.clOrdIdTaken && !own }).filter(
      (one) => concerns(order, one),
    )
    // What is to be approved first cannot be come by through a change.
    for (const one of findings)
      if (one.code === 'gate' && one.why === 'asks first')
        Object.assign(one, { why: 'stops', verdict: 'fails' })
    return { changed, facts, findings, refused: refusal(findings) }
  }

  private change(order: Order, change: OrderChange, now: number): Changed {
    const hindered = notReplaceable(order, change)
    if (hindered) return { hindered }
    const { changed, facts, findings, refused } = this.checkChange(order, change, now)
    if (refused) return { findings, refused }
    const after = replace(this.seat, order, change, now, keptFor(changed, facts))
    // It may trade at once where it stands now.
    this.fresh.push(after.orderId)
    return { order: after }
  }

  /** Takes an order or refuses it, as core/venue does; of a repeated one gives the id of that which stands. */
  submit(
    sent: SentOrder,
    now: number,
    sentBy?: string,
  ): { orderId: string; findings: Finding[]; refused?: Finding } {
    const order = this.facts.sized(sent, now)
    const facts = this.facts.factsFor(this.book, order, now)
    const findings = checkOrder(order, facts)
    const security = this.markets.find(order.symbol)
    const last =
      order.timeInForce === 'GoodTillDate' && security
        ? this.facts.lastSession(this.markets.of(security), order, now)
        : undefined
    const outcome = submit(this.seat, last ? { ...order, expireDate: last } : order, findings, now, {
      kept: keptFor(order, facts),
      sentBy,
    })
    const { orderId, refused } = outcome
    if (!refused) this.fresh.push(orderId)
    return { orderId, findings, refused }
  }

  /** Lets an order that waited for approval work, if it still passes its checks. */
  approve(order: Order, now: number, by: string): { order: Order; findings: Finding[]; refused?: Finding } {
    const others = { ...this.book, working: workingWithout(this.book, order) }
    const { orderQty, timeInForce } = order
    const asked = { ...asChanged(order, { clOrdId: order.clOrdId }), orderQty, timeInForce }
    const facts = { ...this.facts.factsFor(others, asked, now, true), clOrdIdTaken: false }
    const findings = checkOrder(asked, facts)
    const refused = refusal(findings)
    if (refused) return { order, findings, refused }
    approve(this.seat, order, now, by)
    this.fresh.push(order.orderId)
    return { order: this.book.orders[order.orderId], findings }
  }

  decline(order: Order, now: number, by: string): Order {
    decline(this.seat, order, now, by)
    return this.book.orders[order.orderId]
  }

  /** For each contract that expires, or may be assigned, in the current or next session: what will happen to it. */
  expiries(now: number): ExpiryNotice[] {
    return this.markets.all.flatMap((market) =>
      outlook(this.seat, this.sessions.expiringOn(market, market.nextSession(now)), now),
    )
  }

  /** Exercises long contracts at once, or says why it cannot. */
  exercise(symbol: string, quantity: number, clOrdId: string, now: number): Exercised {
    const { seat, book } = this
    const market = this.marketOf(symbol)
    const session = market.sessionAt(now)
    if (!session) return { hindered: 'closed' }
    const free = Math.max(0, sharesOf(book, symbol)) - promisedIn(book.working[symbol] ?? []).sold
    if (quantity > free) return { hindered: 'not held', free: Math.max(0, free) }
    const about = this.sessions.expiringOn(market, session)
    const underlying = underlyingOf(symbol)
    const why = hindranceOf(book, underlying, [{ symbol, quantity }], {
      ...{ priceOf: this.pricesAt(now), date: about.date },
      borrowable: about.borrowable(underlying),
    })
    if (why) return { hindered: why }
    const worth = worthE4(symbol, this.pricesAt(now)(underlying).last)
    const told = worth >= 0 ? inTheMoney(worth) : `${priceText(fromE4(-worth))} out of the money`
    const text = `exercised on request, ${told}`
    const orderId = settle(seat, { symbol, quantity, fate: 'exercised', priceE4: 0, text, clOrdId }, now)
    return { order: book.orders[orderId] }
  }

  /** Orders acknowledged and not yet shown to the book; `workFresh` does that once they are on the disk. */
  get hasFresh(): boolean {
    return this.fresh.length > 0
  }

  workFresh(now: number): void {
    for (const orderId of this.fresh.splice(0)) this.running.work(orderId, now)
  }

  /** Lets the markets run on to a later moment; see Running. */
  advance(from: number, to: number): void {
    this.running.advance(from, to)
  }

  /** Cancels an order: at once, or after the next second of a session where the venue takes its time. */
  cancel(order: Order, now: number, text?: string): void {
    if (order.ordStatus === 'PendingCancel') return
    if (this.answersLater(order, now)) askCancel(this.seat, order.orderId, now)
    else cancel(this.seat, order.orderId, now, text)
  }

  /** Whether a cancel or change may lose the race against a fill. */
  private answersLater = ({ ordStatus, symbol }: Order, now: number): boolean =>
    this.manners === 'slow' &&
    ordStatus !== 'PendingNew' &&
    this.marketOf(symbol).sessionAt(now) !== undefined

  /** Does what was asked for, once the order was shown the next second. */
  private answer(orderId: string, second: number): void {
    const order = this.book.orders[orderId]
    if (order.ordStatus === 'PendingCancel') cancel(this.seat, orderId, second, ON_REQUEST)
    if (order.ordStatus !== 'PendingReplace' || !order.asked) return
    const outcome = this.change(
      { ...order, ordStatus: standingStatus({ ordStatus: 'New', cumQty: order.cumQty }) },
      order.asked,
      second,
    )
    if ('hindered' in outcome) refuseReplace(this.seat, order, second, outcome.hindered.why)
    else if ('refused' in outcome)
      refuseReplace(this.seat, order, second, sayFinding(outcome.refused).sentence)
  }
}

/** Money that an order with options in it keeps while it works; undefined where that is none. */
function keptFor(order: NewOrder, { needs }: OrderFacts): number | undefined {
  if (!order.legs && !isOption(order.symbol)) return undefined
  const neededE4 = needs ? needs.moneyE4 + needs.commissionE4 : 0
  return neededE4 > 0 ? fromE4(neededE4) : undefined
}
