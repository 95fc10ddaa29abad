import { DateTime } from 'luxon'
import { type Book } from '@/core/book/book'
import { factsOf } from '@/core/book/facts'
import { standing } from '@/core/book/value'
import { orderNeeds } from '@/core/book/orderNeeds'
import { type Whole } from '@/core/book/wholes'
import { allWorking, numberOf, type Working } from '@/core/book/working'
import { fromE4, toE4 } from '@/core/market/money'
import { isOption, multiplierOf, parseOsi } from '@/core/options/osi'
import { stamper } from '@/core/market/moments'
import { type Session, sessionAtOrAfter, sessionsBetween, sessionState } from '@/core/market/venue'
import { checkOrder, type OrderFacts, reckonedPrice } from '@/core/orders/check'
import { netE4 } from '@/core/orders/netPrice'
import { type Finding, refusal } from '@/core/orders/findings'
import {
  type ExecutionReport,
  type NewOrder,
  type SentOrder,
  type Order,
  type OrderChange,
} from '@/core/orders/model'
import { type Side } from '@/core/orders/legs'
import { nearest } from '@/core/rules/near'
import { type Auction, meetAuction } from '@/core/venue/auction'
import { type Desk, workingNow } from '@/core/venue/desk'
import { endContracts } from '@/core/venue/expiry'
import { mayTouch } from '@/core/venue/match'
import { cancel, endSession, submit } from '@/core/venue/orders'
import {
  asChanged,
  concerns,
  notReplaceable,
  type NotReplaceable,
  replace,
  workingWithout,
} from '@/core/venue/replace'
import { meetSecond } from '@/core/venue/trade'
import { meetWhole, passesNet } from '@/core/venue/wholes'
import { type Listed } from './market/listing'
import { type Market, minuteBar } from './market/market'
import { type Quote } from './market/quote'
import { type Markets } from './market/markets'

const MINUTE = 60_000

/**
 * One account at the stand-in market: brings its working orders together with the seconds of the market (core/venue says
 * what comes of it). Everything that happens is an execution report, handed to `emit`, which puts it into the journal.
 * Holds nothing else that matters: the book is all there is to restore.
 */
export class Exchange {
  /** Shares of the book that were taken in a second, by symbol and side. */
  private readonly taken = new Map<string, { second: number; quantity: number }>()
  private readonly fresh: string[] = []
  private readonly desk: Desk
  private readonly stamp: (at: number) => string

  constructor(
    private readonly markets: Pick<Markets, 'all' | 'home' | 'find' | 'of' | 'listing' | 'borrowableOf'>,
    readonly book: Book,
    emit: (report: ExecutionReport) => void,
  ) {
    this.market = markets.all.find(({ venue }) => venue.currency === book.rules.currency) ?? markets.home
    this.stamp = stamper({ count: 1, unit: 'min' }, this.market.venue.zone)
    const place = {
      lotOf: (symbol: string) => this.market.find(symbol)!.lot,
      bandsOf: (symbol: string) => this.market.find(symbol)!.increments,
      pricesOf: (symbol: string, at: number) => this.quoteOf(this.market.find(symbol)!, at),
      settlesAt: (at: number) => this.settles(this.stamp(at).slice(0, 10)),
      stampOf: (at: number) => {
        const transactTime = this.stamp(at)
        return { transactTime, tradeDate: transactTime.slice(0, 10) }
      },
    }
    this.desk = { book, place, tell: emit }
  }

  /** The venue of the account's currency, where its orders go; of others the checks say so. */
  readonly market: Market

  /** What was asked of the market at the last moment that was asked about: many orders come within a second. */
  private asked = {
    now: NaN,
    quotes: new Map<string, Quote>(),
    sessions: new Map<Market, OrderFacts['session']>(),
  }

  private askedAt(now: number) {
    if (this.asked.now !== now) this.asked = { now, quotes: new Map(), sessions: new Map() }
    return this.asked
  }

  /** Prices of any security of the account at a moment, each looked up once. */
  pricesAt = (now: number) => (symbol: string) => this.quoteOf(this.market.find(symbol)!, now)

  private quoteOf(listed: Listed, now: number): Quote {
    const { quotes } = this.askedAt(now)
    let quote = quotes.get(listed.symbol)
    if (!quote) quotes.set(listed.symbol, (quote = this.markets.of(listed).quoteAt(listed, now)))
    return quote
  }

  private sessionOf(market: Market, now: number): OrderFacts['session'] {
    const { sessions } = this.askedAt(now)
    let facts = sessions.get(market)
    if (!facts) {
      const { state, session } = sessionState(market.venue, now)
      const opens = opensAt(market, session.open)
      sessions.set(market, (facts = { open: state === 'Open', venue: market.venue.name, opens }))
    }
    return facts
  }

  /** What an order would be checked against now. */
  factsFor = (order: NewOrder, now: number): OrderFacts => this.factsIn(this.book, order, now)

  private factsIn(book: Book, order: NewOrder, now: number): OrderFacts {
    const known = this.knownOf(order.symbol, now)
    const market = known.security ? this.markets.of(known.security) : this.market
    const { buyingPowerE4, freeE4 } = standing(book, this.pricesAt(now), this.stamp(now).slice(0, 10))
    const legs = order.legs?.map(({ symbol }) => this.knownOf(symbol, now))
    const near = known.near.length > 0 || known.security ? known.near : this.like(order.symbol)
    return factsOf(book, order, {
      ...known,
      near,
      legs,
      needs: orderNeeds(book, order, [known, ...(legs ?? [])], freeE4, this.pricesAt(now)),
      borrowable:
        known.security && this.markets.borrowableOf(known.security, market.sessionsBegunBy(now).at(-1)!.date),
      session: this.sessionOf(market, now),
      currency: book.rules.currency,
      buyingPowerE4,
      ...(order.timeInForce === 'GoodTillDate'
        ? { expiry: { last: this.lastSession(market, order, now) } }
        : {}),
    })
  }

  /** What is known of a security at a moment; nothing of a contract that is not listed then. */
  private knownOf(symbol: string, now: number) {
    const found = this.markets.find(symbol)
    const security = found && this.markets.of(found).isListed(found, now) ? found : undefined
    const quote = security && this.quoteOf(security, now)
    return {
      security,
      near: security ? [] : this.like(symbol),
      bid: quote && fromE4(quote.bid),
      ask: quote && fromE4(quote.ask),
      last: quote && fromE4(quote.last),
    }
  }

  /** Date of the last session of a GoodTillDate order; undefined where that has passed. */
  private lastSession(
    { venue }: Market,
    { expireDate, expireSessions }: Pick<NewOrder, 'expireDate' | 'expireSessions'>,
    now: number,
  ): string | undefined {
    const first = sessionAtOrAfter(venue, now).date
    if (expireSessions === undefined) {
      if (expireDate === undefined || expireDate < first) return undefined
      return sessionsBetween(venue, first, expireDate).at(-1)?.date
    }
    // So many sessions lie within less than twice as many days, and a fortnight for holidays.
    const until = DateTime.fromISO(first)
      .plus({ days: expireSessions * 2 + 14 })
      .toISODate()!
    return sessionsBetween(venue, first, until)[expireSessions - 1]?.date
  }

  private lastSettling = { traded: '', settles: '' }

  /** The session after a date, on which what was traded then is settled (T+1, SEC Rule 15c6-1). */
  private settles(traded: string): string {
    if (this.lastSettling.traded !== traded) {
      const from = DateTime.fromISO(traded, { zone: 'utc' })
      const [after, until] = [from.plus({ days: 1 }), from.plus({ days: 15 })].map((day) => day.toISODate()!)
      this.lastSettling = { traded, settles: sessionsBetween(this.market.venue, after, until)[0].date }
    }
    return this.lastSettling.settles
  }

  private like(symbol: string): string[] {
    if (isOption(symbol)) return this.likeContract(symbol)
    const known = this.markets.listing.map((listed) => listed.symbol.toLowerCase())
    return nearest(symbol, known).map((found) => found.toUpperCase())
  }

  /** Contracts of the chain whose expiry or strike lies nearest to one that is not listed. */
  private likeContract(symbol: string): string[] {
    const contract = parseOsi(symbol)
    const underlying = contract && this.market.find(contract.underlyingSymbol)
    if (!contract || !underlying) return []
    const away = ({ option }: Listed) =>
      Math.abs(Date.parse(option!.maturityDate) - Date.parse(contract.maturityDate)) / 8.64e7 +
      (1000 * Math.abs(option!.strikePrice - contract.strikePrice)) / contract.strikePrice
    return this.market.chains
      .chainOf(underlying, this.asked.now)
      .filter(({ option }) => option!.putOrCall === contract.putOrCall)
      .sort((a, b) => away(a) - away(b))
      .slice(0, 2)
      .map((one) => one.symbol)
  }

  check(sent: SentOrder, now: number): Finding[] {
    const order = this.sized(sent, now)
    return checkOrder(order, this.factsFor(order, now))
  }

  /** Changes a working order, or says why not: what is in the way of it, or what was found when it was checked. */
  replace(
    order: Order,
    change: OrderChange,
    now: number,
  ): { order: Order } | { hindered: NotReplaceable } | { findings: Finding[]; refused: Finding } {
    const hindered = notReplaceable(order, change)
    if (hindered) return { hindered }
    const changed = asChanged(order, change)
    const others = { ...this.book, working: workingWithout(this.book, order) }
    const facts = { ...this.factsIn(others, changed, now), filled: order.cumQty }
    const findings = checkOrder(changed, facts).filter((one) => concerns(order, one))
    const refused = refusal(findings)
    if (refused) return { findings, refused }
    const after = replace(this.desk, order, change, now, keptFor(changed, facts))
    // It may trade at once where it stands now.
    this.fresh.push(after.orderId)
    return { order: after }
  }

  /** An order as it is sent with the quantity that its money comes to, in whole lots; 0 where it buys none. */
  sized(sent: SentOrder, now: number): NewOrder {
    if (sent.orderQty !== undefined) return sent as NewOrder
    const { security, ...quote } = this.knownOf(sent.symbol, now)
    const price = security && reckonedPrice({ ...sent }, { ...quote, security })
    if (!security || price === undefined) return { ...sent, orderQty: 0 }
    const lotCost = toE4(price) * multiplierOf(sent.symbol) * security.lot
    return { ...sent, orderQty: Math.floor(toE4(sent.cashOrderQty!) / lotCost) * security.lot }
  }

  /** Takes an order or refuses it, as core/venue does. */
  submit(sent: SentOrder, now: number): { order: Order; findings: Finding[]; refused?: Finding } {
    const order = this.sized(sent, now)
    const facts = this.factsFor(order, now)
    const findings = checkOrder(order, facts)
    const security = this.markets.find(order.symbol)
    const last =
      order.timeInForce === 'GoodTillDate' && security
        ? this.lastSession(this.markets.of(security), order, now)
        : undefined
    const outcome = submit(
      this.desk,
      last ? { ...order, expireDate: last } : order,
      findings,
      now,
      keptFor(order, facts),
    )
    if (!outcome.refused) this.fresh.push(outcome.order.orderId)
    return { ...outcome, findings }
  }

  /** Orders acknowledged and not yet shown to the book; `workFresh` does that once they are on the disk. */
  get hasFresh(): boolean {
    return this.fresh.length > 0
  }

  workFresh(now: number): void {
    for (const orderId of this.fresh.splice(0)) if (this.market.sessionAt(now)) this.work(orderId, now)
  }

  cancel(order: Order, now: number, text?: string): void {
    cancel(this.desk, order.orderId, now, text)
  }

  /**
   * Lets the market run from one moment to a later one: each second of a session in which an order might
   * trade, in time order, and the end of Day orders at the close.
   */
  advance(from: number, to: number): void {
    let at = from
    while (at < to) {
      const session = this.market.nextSession(at)
      if (session.open > to) return
      if (at < session.open) this.auction('AtTheOpening', session, session.open)
      const start = Math.max(at + 1000, session.open)
      const end = Math.min(to, session.close - 1000)
      if (!allWorking(this.book.working).next().done) this.live(session.open, start, end)
      if (to < session.close) return
      this.auction('AtTheClose', session, session.close)
      endSession(this.desk, session.date, session.close)
      endContracts(this.desk, session.date, session.close)
      at = session.close
    }
  }

  /** The auction that opens or closes a session, for the orders that wait for it. */
  private auction(kind: Auction['kind'], session: Session, at: number): void {
    for (const [symbol, orders] of Object.entries(this.book.working)) {
      if (!orders.some((order) => order.auction === kind)) continue
      const minutes = this.market.minutesOf(this.market.find(symbol)!, session)
      const row = kind === 'AtTheOpening' ? 0 : minutes.open.length - 1
      const { open, close, volume } = minuteBar(minutes, row)
      meetAuction(this.desk, symbol, { kind, priceE4: kind === 'AtTheOpening' ? open : close, volume }, at)
    }
  }

  private live(open: number, start: number, end: number): void {
    for (let minute = open + Math.floor((start - open) / MINUTE) * MINUTE; minute <= end; minute += MINUTE) {
      const last = Math.min(end, minute + MINUTE - 1000)
      const orders = this.ordersThatMatter(minute)
      if (orders.length === 0) continue
      for (let second = Math.max(start, minute); second <= last; second += 1000)
        for (const orderId of orders) this.work(orderId, second)
    }
  }

  /** Ids of multi-leg orders that might trade within a minute. */
  private wholesThatMatter(session: Session, row: number): string[] {
    return Object.values(this.book.wholes).flatMap((whole) => {
      const rangeOf = (symbol: string) => this.market.rangeOf(this.market.find(symbol)!, session, row)
      const best = netE4(whole.legs, ({ symbol, legSide }) =>
        legSide === 'Buy' ? rangeOf(symbol).low : rangeOf(symbol).high,
      )
      return passesNet(whole, best) || whole.atOnce !== 'no' ? [whole.orderId] : []
    })
  }

  /** Orders that might trade within a minute, by its bar, and what is attached to them; oldest first. */
  private ordersThatMatter(minute: number): string[] {
    const { working, attached, waiting } = this.book
    const session = this.market.sessionAt(minute)!
    const row = Math.round((minute - session.open) / MINUTE)
    const found = new Map<string, Working>()
    for (const symbol in working) {
      const bar = this.market.rangeOf(this.market.find(symbol)!, session, row)
      for (const order of working[symbol]) {
        if (order.pending || !mayTouch(order, bar)) continue
        found.set(order.orderId, order)
        for (const id of [...(attached[order.orderId] ?? []), ...(waiting[order.orderId] ?? [])]) {
          const other = workingNow(this.desk, id)
          if (other) found.set(id, other)
        }
      }
    }
    const ids = [...found.keys(), ...this.wholesThatMatter(session, row)]
    return ids.sort((a, b) => numberOf(a) - numberOf(b))
  }

  /** Shows a multi-leg order the books of its legs at a second, of which some may be taken already. */
  private workWhole(whole: Whole, second: number): void {
    const keyOf = (symbol: string, side: Side) => `${symbol} ${side === 'Buy' ? 'ask' : 'bid'}`
    const takenOf = (key: string) => {
      const before = this.taken.get(key)
      return before?.second === second ? before.quantity : 0
    }
    const shownOf = (symbol: string) => {
      const quote = this.quoteOf(this.market.find(symbol)!, second)
      return {
        ...quote,
        bidSize: Math.max(0, quote.bidSize - takenOf(`${symbol} bid`)),
        askSize: Math.max(0, quote.askSize - takenOf(`${symbol} ask`)),
      }
    }
    const units = meetWhole(this.desk, whole, shownOf, second)
    if (units === 0) return
    for (const { symbol, legSide, legRatioQty } of whole.legs) {
      const key = keyOf(symbol, legSide)
      this.taken.set(key, { second, quantity: takenOf(key) + units * legRatioQty })
    }
  }

  /** Shows an order the book of a second, if it may still trade. */
  private work(orderId: string, second: number): void {
    const whole = this.book.wholes[orderId]
    if (whole) return this.workWhole(whole, second)
    const order = workingNow(this.desk, orderId)
    if (!order || order.pending || order.auction !== 'no') return
    const quote = this.quoteOf(this.market.find(order.symbol)!, second)
    const key = `${order.symbol} ${order.side === 'Buy' ? 'ask' : 'bid'}`
    const before = this.taken.get(key)
    const taken = before?.second === second ? before.quantity : 0
    const quantity = meetSecond(this.desk, order, quote, second, taken)
    if (quantity > 0) this.taken.set(key, { second, quantity: taken + quantity })
  }
}

/** Money that an order with options in it keeps while it works; undefined where that is none. */
function keptFor(order: NewOrder, { needs }: OrderFacts): number | undefined {
  if (!order.legs && !isOption(order.symbol)) return undefined
  return needs && needs.moneyE4 > 0 ? fromE4(needs.moneyE4) : undefined
}

const opensAt = ({ venue }: Market, open: number): string =>
  DateTime.fromMillis(open, { zone: venue.zone }).setLocale('en').toFormat('cccc HH:mm')
