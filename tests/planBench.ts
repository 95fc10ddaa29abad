import { emptyBook } from '@/core/book/book'
import { type Intent, type PlanEvent } from '@/core/engine/events'
import { growBars } from '@/core/engine/growing'
import { type Shared, sharedOf, takeQuoted, takeShared } from '@/core/engine/shared'
import { prepare, type Prepared } from '@/core/engine/prepare'
import { freshState, type PlanState } from '@/core/engine/state'
import { restored, saved } from '@/core/engine/saved'
import { step } from '@/core/engine/step'
import { type Note, type Trace } from '@/core/engine/verdicts'
import { toE4 } from '@/core/market/money'
import { parseTimeframe, roughMinutes } from '@/core/market/timeframe'
import { BRACKWATER } from '@/core/market/venue'
import { isOption, underlyingOf } from '@/core/options/osi'
import { USUAL_RULES } from '@/core/orders/accountRules'
import { type ExecutionReport, isWorking, type NewOrder } from '@/core/orders/model'
import { type Plan } from '@/core/plans/document'
import { contractsOf } from '@/core/plans/drawn'
import { type LiveBar } from '@/core/rules/exec/liveBar'
import { splitShares } from '@/core/venue/corporate'
import { cancel, submit } from '@/core/venue/orders'
import { replace } from '@/core/venue/replace'
import { type Seat, workingNow } from '@/core/venue/seat'
import { meetSecond } from '@/core/venue/trade'
import { meetWhole } from '@/core/venue/wholes'
import { OSPRY } from './venue'

const MINUTE = 60_000
/** The open of a Monday; the two weeks before have neither a holiday nor a change of the clocks. */
export const OPEN = Date.parse('2026-05-04T09:30:00-03:00')

/** Open, high, low, close and, where it matters, volume of a bar; one number is a close with a tenth on either side. */
export type Prices = number | readonly [number, number, number, number, number?]

/** A bar of the session by its number, on bars of so many minutes. */
export function barOf(k: number, prices: Prices, minutes = 5, open = OPEN): LiveBar {
  const time = open + k * minutes * MINUTE
  const [first, high, low, close, volume = 1000] =
    typeof prices === 'number' ? [prices, prices + 0.1, prices - 0.1, prices] : prices
  return { time, end: time + minutes * MINUTE, open: first, high, low, close, volume }
}

const mapped = <T, U>(of: Record<string, T>, into: (one: T) => U): Record<string, U> =>
  Object.fromEntries(Object.entries(of).map(([key, one]) => [key, into(one)]))
const all = (price: number) => ({ bid: price, ask: price, last: price })

/** A plan with a venue at which what it wants is filled at the price of its bars; the same reports come back to it. */
export class PlanBench {
  readonly shared: Shared
  prepared: Prepared
  state: PlanState
  readonly traces: Trace[] = []
  readonly notes: Note[] = []
  /** Orders that it wanted to send, and all that it wanted. */
  readonly sent: NewOrder[] = []
  readonly wanted: Intent[] = []
  readonly seat: Seat
  /** How far bid and ask lie apart. */
  wide = 0
  /** Ids of orders that it has refused: they are free again. */
  readonly refused: string[] = []
  /** The security of which the venue refuses orders. */
  refuses: string | undefined
  protected readonly prices: Record<string, number> = {}
  /** What contracts are quoted at. */
  protected readonly contracts: Record<string, { bid: number; ask: number; last: number }> = {}
  protected now = OPEN
  protected readonly every: string
  readonly minutes: number
  private readonly reports: ExecutionReport[] = []
  private readonly told: ExecutionReport[] = []
  /** What the broker has reported so far. */
  get reported(): readonly ExecutionReport[] {
    return this.told
  }
  private readonly waiting: Intent[] = []

  constructor(
    readonly plan: Plan,
    /** Whether orders are answered at once, or only when asked. */
    private readonly answers = true,
    symbols: readonly string[] = ['OSPRY'],
  ) {
    const listed = Object.fromEntries(
      symbols.map((symbol) => [symbol, { security: { ...OSPRY, symbol }, venue: BRACKWATER, rate: 1 }]),
    )
    const contracts = contractsOf(plan)
    for (const symbol of contracts) listed[symbol] = { ...listed[underlyingOf(symbol)] }
    // Who opens several legs must be allowed to.
    const rules = { ...USUAL_RULES, ...(contracts.length > 0 ? { optionLevel: 3 } : {}) }
    const book = emptyBook(toE4(50_000), rules)
    this.shared = sharedOf(book, listed, BRACKWATER)
    this.shared.bases = { startE4: toE4(50_000), dayE4: toE4(50_000) }
    for (const { if: asked } of plan.sides) growBars(this.shared.growing, asked.every)
    this.every = plan.sides[0].if.every
    this.minutes = roughMinutes(parseTimeframe(this.every)!)
    this.prepared = this.prepare(plan)
    this.state = freshState(plan)
    this.seat = {
      book: emptyBook(toE4(50_000), rules),
      place: {
        lotOf: () => 1,
        bandsOf: () => OSPRY.increments,
        stampOf: () => ({
          transactTime: new Date(this.now).toISOString(),
          tradeDate: new Date(this.now - 3 * 3_600_000).toISOString().slice(0, 10),
        }),
        currencyOf: () => 'USD',
        settlesAt: () => '2026-05-05',
        pricesOf: (symbol) => this.contracts[symbol] ?? all(this.prices[symbol]),
      },
      tell: (report) => this.reports.push(report),
    }
  }

  /** Every side looks at every security of the bench. */
  private readonly prepare = (plan: Plan): Prepared => {
    const { listed } = this.shared
    const symbols = Object.keys(listed).filter((symbol) => !isOption(symbol))
    return prepare(
      plan,
      listed,
      plan.sides.map(({ among }) => {
        const named =
          'pairs' in among ? among.pairs.map(([first]) => first) : 'list' in among ? among.list : symbols
        const there = named.filter((one) => listed[one])
        return there.length > 0 ? there : symbols
      }),
    )
  }

  /** Bars of sessions before, so many days back, that the plan is told before it looks. */
  before(days: number, prices: readonly Prices[], symbol = 'OSPRY', from = 0): void {
    for (const [k, one] of prices.entries()) {
      const bar = barOf(from + k, one, this.minutes, OPEN - days * 86_400_000)
      this.step({ is: 'bar', at: bar.end, symbol, every: this.every, bar }, false)
    }
  }

  /** A bar is over: it is quoted at its close, told to the plan, and what rests at the venue meets that price. */
  bar(k: number, prices: Prices, acts = true, symbol = 'OSPRY'): void {
    const one = barOf(k, prices, this.minutes)
    this.now = one.end
    this.prices[symbol] = toE4(one.close)
    const { close } = one
    this.shared.quotes[symbol] = { at: one.end, ...this.around(close) }
    this.meet()
    this.step({ is: 'bar', at: one.end, symbol, every: this.every, bar: one }, acts)
    if (this.answers) this.answer()
  }

  /** A quote comes so many minutes after the open: what rests meets it, and the plan looks at it. */
  tick(minute: number, last: number, trades: { uptrades?: number; downtrades?: number } = {}): void {
    this.now = OPEN + minute * MINUTE
    this.prices.OSPRY = toE4(last)
    const since = { high: last, low: last, volume: 10, uptrades: 0, downtrades: 0, ...trades }
    const quote = { symbol: 'OSPRY', at: this.now, ...this.around(last), since }
    takeQuoted(this.shared, quote)
    this.meet()
    this.step({ is: 'quote', ...quote }, true)
    if (this.answers) this.answer()
  }

  /** The clock stands at the end of a bar. */
  at(k: number): void {
    this.now = barOf(k, 1, this.minutes).end
  }

  /** A contract is quoted, and the plan hears of it. */
  quote(symbol: string, bid: number, ask: number): void {
    const last = (bid + ask) / 2
    this.contracts[symbol] = { bid: toE4(bid), ask: toE4(ask), last: toE4(last) }
    const quote = { symbol, at: this.now, bid, ask, last }
    takeQuoted(this.shared, quote)
    this.step({ is: 'quote', ...quote }, true)
  }

  private around = (last: number) => ({ bid: last - this.wide / 2, ask: last + this.wide / 2, last })

  step(event: PlanEvent, acts: boolean): void {
    const { traces, intents, notes } = step(this.prepared, this.state, this.shared, event, acts)
    this.traces.push(...traces)
    this.notes.push(...notes)
    this.wanted.push(...intents)
    this.waiting.push(...intents)
    for (const intent of intents) if (intent.is === 'send') this.sent.push(intent.order)
  }

  /** The venue takes what was wanted, and fills it. */
  answer(): void {
    do {
      for (const intent of this.waiting.splice(0)) this.take(intent)
      this.meet()
      // A fill may lead to another order.
    } while (this.waiting.length > 0)
  }

  private take(intent: Intent): void {
    if (intent.is === 'send') {
      if (intent.order.symbol !== this.refuses) submit(this.seat, intent.order, [], this.now)
      else {
        this.refused.push(intent.order.clOrdId)
        this.step({ is: 'refused', at: this.now, clOrdId: intent.order.clOrdId }, true)
      }
      return
    }
    if (intent.is === 'ask') return
    const { book } = this.seat
    const order = book.orders[book.byClOrdId[intent.clOrdId]]
    // What is over by then is refused.
    if (!isWorking(order.ordStatus)) return
    if (intent.is === 'cancel') cancel(this.seat, order.orderId, this.now, 'asked')
    else replace(this.seat, order, intent.change, this.now)
  }

  protected meet(): void {
    const prices = { ...mapped(this.prices, all), ...this.contracts }
    for (const [symbol, price] of Object.entries(prices)) {
      const shown = { ...price, bidSize: 1e9, askSize: 1e9 }
      for (const { orderId } of [...(this.seat.book.working[symbol] ?? [])]) {
        const order = workingNow(this.seat, orderId)
        if (order && !order.pending) meetSecond(this.seat, order, shown, this.now, 0)
      }
    }
    const shownOf = (symbol: string) => ({ ...this.contracts[symbol], bidSize: 1e9, askSize: 1e9 })
    for (const whole of Object.values(this.seat.book.wholes)) meetWhole(this.seat, whole, shownOf, this.now)
    for (const report of this.reports.splice(0)) {
      this.told.push(report)
      takeShared(this.shared, report)
      this.step({ is: 'report', at: this.now, report }, true)
    }
  }

  /** A hand, or somebody else, trades in the same account. */
  byHand(part: Partial<NewOrder>): void {
    submit(
      this.seat,
      {
        ...{ clOrdId: `hand-${this.told.length}`, symbol: 'OSPRY', side: 'Sell', orderQty: 1 },
        ...{ ordType: 'Market', timeInForce: 'Day', ...part },
      },
      [],
      this.now,
    )
    this.meet()
    if (this.answers) this.answer()
  }

  split(ratio: number): void {
    this.prices.OSPRY /= ratio
    splitShares(this.seat, { symbol: 'OSPRY', ratio, exDate: '2026-05-05' }, this.now)
    this.meet()
  }

  tomorrow(): void {
    this.now += 86_400_000
  }

  /** Begins anew: it is told all reports and bars again, and knows nothing else. */
  forget(closes: readonly number[]): void {
    this.prepared = this.prepare(this.plan)
    this.state = freshState(this.plan)
    this.step({ is: 'time', at: this.now }, false)
    for (const report of this.told)
      step(this.prepared, this.state, this.shared, { is: 'report', at: this.now, report }, false)
    // The bar of a day before comes first, as when it catches up.
    const before = [barOf(-400, closes[0]), ...closes.map((close, k) => barOf(k, close))]
    for (const one of before)
      this.step({ is: 'bar', at: one.end, symbol: 'OSPRY', every: this.every, bar: one }, false)
  }

  /** Ends and begins again with what was kept. */
  restart(plan = this.plan): void {
    const kept = JSON.parse(JSON.stringify(saved(this.state, this.prepared))) as ReturnType<typeof saved>
    this.prepared = this.prepare(plan)
    this.state = restored(this.prepared, kept)
  }

  heldOf = (symbol: string): number => this.seat.book.holdings[symbol]?.quantity ?? 0
  get held(): number {
    return this.heldOf('OSPRY')
  }

  /** Levels at which the exits of what is held stand at the venue, by role. */
  get exits(): Record<string, number | undefined> {
    const orders = (this.seat.book.working.OSPRY ?? []).map(({ orderId }) => this.seat.book.orders[orderId])
    return Object.fromEntries(
      orders.flatMap(({ role, price, stopPx }) => (role === 'Entry' ? [] : [[role, stopPx ?? price]])),
    )
  }
}
