import { emptyBook } from '../core/book/book'
import { growBars, seedBar } from '../core/engine/growing'
import { judge } from '../core/engine/judge'
import { type Listed } from '../core/engine/listed'
import { type Intent } from '../core/engine/events'
import { type Shared, sharedOf, takeQuoted, takeShared } from '../core/engine/shared'
import { prepare, type Prepared } from '../core/engine/prepare'
import { freshState, type PlanState } from '../core/engine/state'
import { step } from '../core/engine/step'
import { tickedBy } from '../core/market/growing'
import { toE4 } from '../core/market/money'
import { BRACKWATER } from '../core/market/venue'
import { type QuoteTick } from '../core/market/wire'
import { PLAN_FORM, Plan } from '../core/plans/document'
import { HOLDS } from '../core/rules'
import { type ExecutionReport } from '../core/orders/model'
import { submit } from '../core/venue/orders'
import { type Seat, workingNow } from '../core/venue/seat'
import { meetSecond } from '../core/venue/trade'
import { type LiveBar } from '../core/rules/exec/liveBar'
import { type Line, lineOf, quantile, round } from './measure'

const [PLANS, SECURITIES, MESSAGES, A_SECOND] = [20, 500, 240, 4]
const OPEN = Date.parse('2026-05-04T09:30:00-03:00')
const MINUTE = 60_000
const symbols = Array.from({ length: SECURITIES }, (_, k) => `S${k.toString().padStart(3, '0')}`)

/** A plan of ten clauses that looks at every quote. */
const planOf = (k: number): Plan =>
  Plan.parse({
    ...{ form: PLAN_FORM, formVersion: 1, id: `bench-${k}`, name: `Bench ${k}`, version: 1 },
    when: { look: 'Tick', until: { beforeClose: 20 } },
    sides: [
      {
        among: { list: symbols },
        if: {
          rule: `ema(close, ${5 + k}) crosses above sma(close, ${20 + k}) and rsi(14) > 40`,
          ...{ every: '5 min', bars: 'SoFar' },
        },
        provided: [
          { name: 'widest spread', rule: 'quoted spread <= 0.5%' },
          { name: 'largest order', rule: 'order value <= 6000' },
        ],
        do: { open: 'Long', price: 'market', size: { money: 5000 } },
        then: {
          exits: { stop: { distance: '2 * atr(14)' }, target: { percent: 4 } },
          outAt: { beforeClose: 5 },
        },
      },
    ],
    never: { entriesPerSecurityAndDay: 1, entriesPerDay: 20, exposure: 200_000, lossPerDay: 900 },
  })

/** Prices that wander the same way in every run. */
class Wander {
  private seed = 12_345
  readonly prices = symbols.map((_, k) => 20 + (k % 50))
  next(): number {
    this.seed = (this.seed * 1_103_515_245 + 12_345) % 2_147_483_648
    return this.seed / 2_147_483_648
  }
  move(k: number): number {
    this.prices[k] = Math.round(100 * this.prices[k] * (1 + (this.next() - 0.5) / 800)) / 100
    return this.prices[k]
  }
}

interface Desk {
  seat: Seat
  reports: ExecutionReport[]
  shared: Shared
  plans: { prepared: Prepared; state: PlanState }[]
  wander: Wander
}

function desk(): Desk {
  const increments = [...BRACKWATER.increments]
  const listed: Record<string, Listed> = Object.fromEntries(
    symbols.map((symbol) => {
      const security = {
        ...{ symbol, name: symbol, kind: 'Stock' as const, sector: '', venue: 'XBKW', country: 'CA' },
        ...{ currency: 'USD', lot: 1, increments, indices: [], orderable: true },
      }
      return [symbol, { security, venue: BRACKWATER, rate: 1 }]
    }),
  )
  const book = emptyBook(toE4(5_000_000))
  const shared = sharedOf(book, listed, BRACKWATER)
  growBars(shared.growing, '5 min')
  const wander = new Wander()
  const plans = Array.from({ length: PLANS }, (_, k) => {
    const plan = planOf(k)
    return { prepared: prepare(plan, listed), state: freshState(plan) }
  })
  for (let b = -60; b <= 0; b++)
    symbols.forEach((symbol, k) => {
      const time = OPEN + (b - 1) * 5 * MINUTE
      const price = wander.move(k)
      const [high, low] = [price * 1.001, price * 0.999]
      const bar: LiveBar = {
        time,
        end: time + 5 * MINUTE,
        open: price,
        high,
        low,
        close: price,
        volume: 1000,
      }
      for (const { prepared, state } of plans)
        step(prepared, state, shared, { is: 'bar', at: bar.end, symbol, every: '5 min', bar }, false)
      if (b === 0) seedBar(shared.growing, '5 min', symbol, { ...bar, time: OPEN, end: Infinity })
    })
  const reports: ExecutionReport[] = []
  const seat: Seat = {
    book: emptyBook(toE4(5_000_000)),
    place: {
      ...{
        lotOf: () => 1,
        bandsOf: () => increments,
        currencyOf: () => 'USD',
        settlesAt: () => '2026-05-05',
      },
      stampOf: (at) => ({ transactTime: new Date(at).toISOString(), tradeDate: '2026-05-04' }),
      pricesOf: (symbol) => {
        const { bid, ask, last } = shared.quotes[symbol]
        return { bid: toE4(bid), ask: toE4(ask), last: toE4(last) }
      },
    },
    tell: (report) => reports.push(report),
  }
  return { shared, plans, wander, seat, reports }
}

/** The broker fills what was wanted, and tells all plans. */
function answer({ seat, reports, shared, plans }: Desk, intents: readonly Intent[]): void {
  for (const intent of intents) {
    if (intent.is !== 'send') continue
    const { orderId } = submit(seat, intent.order, [], intent.at)
    const shown = { ...seat.place.pricesOf(intent.order.symbol, intent.at), bidSize: 1e9, askSize: 1e9 }
    const order = workingNow(seat, orderId)
    if (order) meetSecond(seat, order, shown, intent.at, 0)
    for (const report of reports.splice(0)) {
      takeShared(shared, report)
      for (const { prepared, state } of plans)
        step(prepared, state, shared, { is: 'report', at: intent.at, report }, true)
    }
  }
}

/** One message of the broker's stream of quotes, as text. */
function message(wander: Wander, at: number): string {
  const stamp = new Date(at).toISOString()
  return JSON.stringify(
    symbols.map((symbol, k) => {
      const last = wander.move(k)
      const since = { at: stamp, high: last, low: last, volume: 100, uptrades: 1, downtrades: 0 }
      const sizes = { bidSize: 300, askSize: 300 }
      return { symbol, at: stamp, bid: last - 0.01, ask: last + 0.01, last, ...sizes, since }
    }),
  )
}

/** Everything that one message leads to. */
function decide({ shared, plans }: Desk, text: string): Intent[] {
  const wanted: Intent[] = []
  for (const tick of JSON.parse(text) as QuoteTick[]) {
    const { symbol, bid, ask } = tick
    const quote = { is: 'quote' as const, symbol, bid, ask, ...tickedBy(tick) }
    takeQuoted(shared, quote)
    for (const { prepared, state } of plans)
      wanted.push(...step(prepared, state, shared, quote, true).intents)
  }
  return wanted
}

/** Twenty plans over 500 securities at 2,000 ticks a second: how long a message takes, and one whole evaluation. */
export function benchPlans(messages = MESSAGES): Line[] {
  const one = desk()
  const texts = Array.from({ length: messages + 40 }, (_, i) =>
    message(one.wander, OPEN + 60_000 + (i * 1000) / A_SECOND),
  )
  // What getting ready has left behind is no part of what is measured.
  globalThis.gc?.()
  const parse: number[] = []
  const times: number[] = []
  let wanted = 0
  texts.forEach((text, i) => {
    const began = performance.now()
    JSON.parse(text)
    const read = performance.now()
    const intents = decide(one, text)
    const decided = performance.now()
    wanted += intents.length
    answer(one, intents)
    if (i < 40) return
    parse.push(read - began)
    times.push(decided - read)
  })
  const base = lineOf(`a message of ${SECURITIES} quotes is parsed`, parse, 'ms', undefined)
  const p99 = quantile(
    [...times].sort((a, b) => a - b),
    0.99,
  )
  const line = lineOf(`${PLANS} plans decide a message of ${SECURITIES} quotes`, times, 'ms', base)
  return [
    base,
    { ...line, reason: `${wanted} orders wanted` },
    { ...line, name: `${line.name}, p99`, median: round(p99), spread: 0, ratio: round(p99 / base.median) },
    ...judging(one),
  ]
}

/** One security judged by all clauses, its order drafted and checked. */
function judging({ shared, plans }: Desk): Line[] {
  const [{ prepared, state }] = plans
  state.entries = {}
  const at = shared.quotes[symbols[7]].at
  const asked = { side: 0, symbol: symbols[7], at, condition: HOLDS, clOrdId: 'p.bench', signal: 'bench' }
  const many = 500
  const times = Array.from({ length: 40 }, () => {
    const began = performance.now()
    for (let i = 0; i < many; i++) judge(prepared, state, shared, asked)
    return (1000 * (performance.now() - began)) / many
  })
  const { findings } = judge(prepared, state, shared, asked)
  return [lineOf(`one evaluation of ${findings.length} findings`, times.slice(10), 'µs', undefined)]
}

/** Messages between two looks at the memory. */
const BETWEEN = 600

/**
 * Memory of the same over an hour of a session: what is still held after a full collection, each ten minutes in megabytes, the
 * broker's bars among what comes. Needs `--expose-gc`.
 */
export function benchPlansHour(messagesASecond = 1): Line[] {
  const one = desk()
  const heap = () => {
    globalThis.gc?.()
    return process.memoryUsage().heapUsed / 1_000_000
  }
  const held: number[] = []
  const total = 3600 * messagesASecond
  for (let i = 0; i < total; i++) {
    const at = OPEN + 60_000 + (i * 1000) / messagesASecond
    if (i > 0 && i % (300 * messagesASecond) === 0) barsOver(one, i / (300 * messagesASecond))
    answer(one, decide(one, message(one.wander, at)))
    if (i % (BETWEEN * messagesASecond) === 0) held.push(heap())
  }
  held.push(heap())
  // The first look is at what getting ready has made.
  const [, ...later] = held
  const line = lineOf(`${PLANS} plans over an hour, memory`, later, 'MB', undefined)
  return [{ ...line, reason: held.map((megabytes) => round(megabytes)).join(', ') }]
}

/** A bar of every security is complete. */
function barsOver({ shared, plans }: Desk, number: number): void {
  const time = OPEN + (number - 1) * 5 * MINUTE
  for (const symbol of symbols) {
    const { last } = shared.quotes[symbol]
    const end = time + 5 * MINUTE
    const bar = { time, end, open: last, high: last, low: last, close: last, volume: 1000 }
    for (const { prepared, state } of plans)
      step(prepared, state, shared, { is: 'bar', at: end, symbol, every: '5 min', bar }, true)
  }
}
