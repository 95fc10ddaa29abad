import { DateTime } from 'luxon'
import { nearest } from '@/core/rules/near'
import { fromE4, toE4 } from '@/core/market/money'
import { localDate, sessionState } from '@/core/market/venue'
import { checkOrder, type OrderFacts } from '@/core/orders/check'
import { closingSide, exitPrice } from '@/core/orders/levels'
import {
  attachedOrders,
  type Ledger,
  offeredShort,
  promisedShares,
  takeReport,
  workingOrders,
} from '@/core/orders/ledger'
import { COMMISSION_E4 } from '@/core/orders/margin'
import {
  type Check,
  type CheckCode,
  type ExecType,
  type ExecutionReport,
  isWorking,
  type NewOrder,
  type Order,
  type OrdRejReason,
  type OrdStatus,
} from '@/core/orders/model'
import { type Market, minuteBar, stepOf } from '../market/market'
import { type Markets } from '../market/markets'
import { mayTrade, standing } from './standing'
import { type Fill, mayTouch, setsOff, sweep } from './sweep'

/** Why an order is refused, as FIX says it. */
const REASON: Record<CheckCode, OrdRejReason> = {
  security: 'UnknownSymbol',
  orderable: 'Other',
  quantity: 'IncorrectQuantity',
  tick: 'InvalidPriceIncrement',
  'client-order-id': 'DuplicateOrder',
  'market-open': 'ExchangeClosed',
  'exit-side': 'Other',
  'shares-held': 'IncorrectQuantity',
  'buying-power': 'OrderExceedsLimit',
}

/** Fields of a report that change the order it is about. */
type Change = Partial<Omit<ExecutionReport, 'seq' | 'execId' | 'execType' | 'ordStatus'>>

/**
 * Matches the orders of one account against the stand-in market. Everything that happens is an execution
 * report, taken into the ledger at once and handed to `emit`, which puts it into the journal. Holds nothing
 * else that matters: the ledger is all there is to restore.
 */
export class Exchange {
  /** Shares of the book that were taken in a second, by symbol and side. */
  private readonly taken = new Map<string, { second: number; quantity: number }>()
  private readonly fresh: string[] = []

  constructor(
    private readonly markets: Pick<Markets, 'home' | 'find' | 'of' | 'listing'>,
    readonly ledger: Ledger,
    private readonly emit: (report: ExecutionReport) => void,
  ) {}

  /** Orders are worked on the home market only; of others the checks say so. */
  private get market(): Market {
    return this.markets.home
  }

  /** What an order would be checked against now. */
  factsFor(order: NewOrder, now: number): OrderFacts {
    const security = this.markets.find(order.symbol)
    const market = security ? this.markets.of(security) : this.market
    const quote = security && market.quoteAt(security, now)
    const { state, session } = sessionState(market.venue, now)
    const opens = DateTime.fromMillis(session.open, { zone: market.venue.zone })
      .setLocale('en')
      .toFormat('cccc HH:mm')
    const sharesHeld = this.ledger.holdings.get(order.symbol)?.quantity ?? 0
    return {
      security,
      near: security
        ? []
        : nearest(
            order.symbol,
            this.markets.listing.map((l) => l.symbol.toLowerCase()),
          ).map((s) => s.toUpperCase()),
      bid: quote && fromE4(quote.bid),
      ask: quote && fromE4(quote.ask),
      last: quote && fromE4(quote.last),
      session: { open: state === 'Open', venue: market.venue.name, opens },
      currency: this.market.venue.currency,
      clOrdIdTaken: this.clOrdIdTaken(order.clOrdId),
      sharesHeld,
      promised: promisedShares(this.ledger, order.symbol, order.side === 'Sell' ? 'Sell' : 'Buy'),
      offeredShort: offeredShort(this.ledger, order.symbol),
      buyingPowerE4: standing(this.ledger, this.market, now).buyingPowerE4,
    }
  }

  private clOrdIdTaken(clOrdId: string): boolean {
    const orderId = this.ledger.byClOrdId.get(clOrdId)
    return orderId !== undefined && this.ledger.orders.get(orderId)!.ordStatus !== 'Rejected'
  }

  check(order: NewOrder, now: number): Check[] {
    return checkOrder(order, this.factsFor(order, now))
  }

  /**
   * Takes an order or refuses it. A refused one is kept too, as Rejected, and leaves its id free; a second one
   * under an id that stands is not kept: it was most likely a request repeated, and the first one answers.
   */
  submit(order: NewOrder, now: number): { order: Order; checks: Check[]; refused?: Check } {
    const checks = this.check(order, now)
    const refused = checks.find((check) => check.verdict === 'fails')
    if (refused?.code === 'client-order-id') {
      return { order: this.orderOf(this.ledger.byClOrdId.get(order.clOrdId)!), checks, refused }
    }
    const orderId = `O${this.ledger.orders.size + 1}`
    const { exits, ...plain } = order
    const entry: Change = {
      ...plain,
      exits,
      orderId,
      role: 'Entry',
      contingencyType: exits ? 'OneTriggersTheOther' : undefined,
      cumQty: 0,
      leavesQty: refused ? 0 : order.orderQty,
      avgPx: 0,
    }
    if (refused) {
      const text = [refused.sentence, refused.mend].filter(Boolean).join(' ')
      this.report(undefined, 'Rejected', 'Rejected', now, {
        ...entry,
        ordRejReason: REASON[refused.code],
        text,
      })
      return { order: this.orderOf(orderId), checks, refused }
    }
    this.report(undefined, 'New', 'New', now, entry)
    if (exits) this.attachExits(orderId, order, now)
    this.fresh.push(orderId)
    return { order: this.orderOf(orderId), checks }
  }

  /** Orders acknowledged and not yet shown to the book; `workFresh` does that once they are on the disk. */
  get hasFresh(): boolean {
    return this.fresh.length > 0
  }

  workFresh(now: number): void {
    for (const orderId of this.fresh.splice(0)) {
      if (this.market.sessionAt(now) && isWorking(this.orderOf(orderId).ordStatus))
        this.work(this.orderOf(orderId), now)
    }
  }

  private attachExits(parentOrderId: string, entry: NewOrder, now: number): void {
    const both = entry.exits!.stop && entry.exits!.target
    for (const role of ['Stop', 'Target'] as const) {
      if (!(role === 'Stop' ? entry.exits!.stop : entry.exits!.target)) continue
      this.report(undefined, 'PendingNew', 'PendingNew', now, {
        orderId: `O${this.ledger.orders.size + 1}`,
        clOrdId: `${entry.clOrdId}/${role.toLowerCase()}`,
        symbol: entry.symbol,
        side: closingSide(entry.side),
        orderQty: entry.orderQty,
        ordType: role === 'Stop' ? 'Stop' : 'Limit',
        timeInForce: 'GoodTillCancel',
        role,
        parentOrderId,
        contingencyType: both ? 'OneCancelsTheOther' : undefined,
        cumQty: 0,
        leavesQty: entry.orderQty,
        avgPx: 0,
        text: 'waits for its entry',
      })
    }
  }

  private orderOf = (orderId: string): Order => this.ledger.orders.get(orderId)!

  private exitsOf = (parentOrderId: string): Order[] => attachedOrders(this.ledger, parentOrderId)

  /** Cancels a working order, and with an entry that nothing was filled of, its exits. */
  cancel(order: Order, now: number, text = 'canceled on request'): void {
    this.report(order, 'Canceled', 'Canceled', now, { leavesQty: 0, text })
    this.releaseExitsOf(order.orderId, now)
  }

  /** Once an entry can fill no more: exits of one that never filled are canceled with it. */
  private releaseExitsOf(orderId: string, now: number): void {
    const entry = this.orderOf(orderId)
    if (entry.cumQty > 0) return
    for (const exit of this.exitsOf(orderId)) {
      if (exit.ordStatus === 'PendingNew') {
        this.report(exit, 'Canceled', 'Canceled', now, { leavesQty: 0, text: 'its entry was not filled' })
      }
    }
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
      const start = Math.max(at + 1000, session.open)
      const end = Math.min(to, session.close - 1000)
      if (this.ledger.working.size > 0) this.live(session.open, start, end)
      if (to < session.close) return
      this.expireDayOrders(session.date, session.close)
      at = session.close
    }
  }

  private live(open: number, start: number, end: number): void {
    for (let minute = open + Math.floor((start - open) / 60_000) * 60_000; minute <= end; minute += 60_000) {
      const last = Math.min(end, minute + 59_000)
      const orders = this.ordersThatMatter(minute)
      if (orders.length === 0) continue
      for (let second = Math.max(start, minute); second <= last; second += 1000) {
        for (const orderId of orders) {
          const order = this.orderOf(orderId)
          if (isWorking(order.ordStatus) && order.ordStatus !== 'PendingNew') this.work(order, second)
        }
      }
    }
  }

  /** Orders that might trade within a minute, by its bar, and what is attached to them; oldest first. */
  private ordersThatMatter(minute: number): string[] {
    const session = this.market.sessionAt(minute)!
    const row = Math.round((minute - session.open) / 60_000)
    const out = new Set<string>()
    for (const [symbol, orders] of this.ledger.workingIn) {
      const bar = minuteBar(this.market.minutesOf(this.market.find(symbol)!, session), row)
      for (const order of orders.values()) {
        if (order.ordStatus === 'PendingNew' || !mayTouch(order, bar)) continue
        for (const one of [order, ...this.exitsOf(order.orderId)]) out.add(one.orderId)
      }
    }
    const number = (orderId: string) => Number(orderId.slice(1))
    return [...out].sort((a, b) => number(a) - number(b))
  }

  private expireDayOrders(date: string, close: number): void {
    for (const order of workingOrders(this.ledger)) {
      if (
        order.timeInForce !== 'Day' ||
        order.tradeDate > date ||
        !isWorking(this.orderOf(order.orderId).ordStatus)
      )
        continue
      this.report(order, 'Expired', 'Expired', close, {
        leavesQty: 0,
        text: 'a Day order ends with the session',
      })
      this.releaseExitsOf(order.orderId, close)
    }
  }

  /** Trades as much of a working order as the book of this second gives. */
  private work(order: Order, second: number): void {
    const listed = this.market.find(order.symbol)!
    const quote = this.market.quoteAt(listed, second)
    if (order.ordType === 'Stop' && !order.triggered) {
      if (!setsOff(order, quote.last)) return
      this.report(order, 'TriggeredOrActivatedBySystem', order.ordStatus, second, { triggered: true })
    }
    const key = `${order.symbol} ${order.side === 'Buy' ? 'ask' : 'bid'}`
    const before = this.taken.get(key)
    const taken = before?.second === second ? before.quantity : 0
    const fills = sweep(this.orderOf(order.orderId), quote, stepOf(listed, quote.last), taken)
    let quantity = 0
    for (const fill of fills) {
      const most = mayTrade(this.ledger, this.market, this.orderOf(order.orderId), fill, second)
      const part = Math.min(fill.quantity, most.quantity)
      quantity += part
      if (part > 0) this.trade(order.orderId, { ...fill, quantity: part }, second)
      if (part === fill.quantity) continue
      // It may have ended with what was traded.
      const left = this.orderOf(order.orderId)
      if (isWorking(left.ordStatus)) this.cancel(left, second, most.why)
      break
    }
    if (quantity > 0) this.taken.set(key, { second, quantity: taken + quantity })
  }

  private trade(orderId: string, fill: Fill, now: number): void {
    const order = this.orderOf(orderId)
    const cumQty = order.cumQty + fill.quantity
    const leavesQty = order.orderQty - cumQty
    const filledE4 = order.chain.reduce((sum, step) => sum + (step.lastQty ?? 0) * toE4(step.lastPx ?? 0), 0)
    const avgPx = Math.round((filledE4 + fill.quantity * fill.priceE4) / cumQty) / 10_000
    this.report(order, 'Trade', leavesQty === 0 ? 'Filled' : 'PartiallyFilled', now, {
      cumQty,
      leavesQty,
      avgPx,
      lastQty: fill.quantity,
      lastPx: fromE4(fill.priceE4),
      commission: fromE4(fill.quantity * COMMISSION_E4),
    })
    if (order.role === 'Entry') this.followEntry(orderId, now)
    else this.followExit(orderId, fill.quantity, now)
  }

  /** Puts an entry's exits to work for what is filled, measured from its average price. */
  private followEntry(orderId: string, now: number): void {
    const entry = this.orderOf(orderId)
    const bands = this.market.find(entry.symbol)!.increments
    for (const exit of this.exitsOf(orderId)) {
      if (!isWorking(exit.ordStatus)) continue
      const role = exit.role as 'Stop' | 'Target'
      const price = exitPrice(
        role === 'Stop' ? entry.exits!.stop! : entry.exits!.target!,
        role,
        entry.side,
        entry.avgPx,
        bands,
      )
      const level = role === 'Stop' ? { stopPx: price } : { price }
      const quantity = { orderQty: entry.cumQty, leavesQty: entry.cumQty - exit.cumQty }
      const mate = exit.contingencyType
        ? `cancels with the ${role === 'Stop' ? 'target' : 'stop'}`
        : undefined
      if (exit.ordStatus === 'PendingNew')
        this.report(exit, 'New', 'New', now, { ...level, ...quantity, text: mate })
      else this.report(exit, 'Restated', exit.ordStatus, now, { ...level, ...quantity, text: mate })
    }
  }

  /** After an exit has traded: its entry takes no more, and the other exit shrinks with it or ends. */
  private followExit(orderId: string, quantity: number, now: number): void {
    const exit = this.orderOf(orderId)
    const entry = this.orderOf(exit.parentOrderId!)
    if (isWorking(entry.ordStatus))
      this.report(entry, 'Canceled', 'Canceled', now, { leavesQty: 0, text: 'its exit has traded' })
    for (const other of this.exitsOf(entry.orderId)) {
      if (other.orderId === orderId || !isWorking(other.ordStatus)) continue
      const orderQty = other.orderQty - quantity
      if (orderQty <= other.cumQty) {
        this.report(other, 'Canceled', 'Canceled', now, {
          leavesQty: 0,
          text: `the ${exit.role.toLowerCase()} was filled`,
        })
      } else
        this.report(other, 'Restated', other.ordStatus, now, { orderQty, leavesQty: orderQty - other.cumQty })
    }
  }

  private report(
    order: Order | undefined,
    execType: ExecType,
    ordStatus: OrdStatus,
    now: number,
    change: Change,
  ): ExecutionReport {
    const seq = this.ledger.seq + 1
    const {
      enteredTime: _entered,
      lastSeq: _seq,
      chain: _chain,
      ...standing
    } = order ? this.orderOf(order.orderId) : ({} as Order)
    const report = {
      ...standing,
      ...change,
      seq,
      execId: `E${seq}`,
      execType,
      ordStatus,
      transactTime: DateTime.fromMillis(now, { zone: this.market.venue.zone }).toISO({
        suppressMilliseconds: true,
      })!,
      tradeDate: localDate(this.market.venue, now),
    } as ExecutionReport
    takeReport(this.ledger, report)
    this.emit(report)
    return report
  }
}
