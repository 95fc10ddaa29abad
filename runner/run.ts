import { type Broker, BrokerProblem, follow } from '@/client'
import { decodeBars } from '@/core/formats/barsBinary'
import { openTable } from '@/core/market/barTable'
import { parseTimeframe, timeframeText } from '@/core/market/timeframe'
import { QuoteTick } from '@/core/market/wire'
import { ExecutionReport, type NewOrder } from '@/core/orders/model'
import { type Intent, type PlanEvent } from '@/core/engine/events'
import { takeShared } from '@/core/engine/shared'
import { freshState, prepare, type Prepared, type PlanState } from '@/core/engine/state'
import { step } from '@/core/engine/step'
import { type Trace } from '@/core/engine/verdicts'
import { type Plan } from '@/core/plans/document'
import { barAt } from '@/core/rules/exec/liveBar'
import { type Known } from './connect'

/** What a run writes down, a line each. */
export type RunEntry =
  | { is: 'started'; plan: string; version: number; acts: boolean; worldId: string }
  | { is: 'trace'; trace: Trace }
  | { is: 'intent'; intent: Intent; sends: boolean }
  | { is: 'taken'; clOrdId: string; waited: number }
  | { is: 'refused'; clOrdId: string; why: string }
  | { is: 'not sent'; clOrdId: string; why: string }
  | { is: 'report'; report: ExecutionReport }
  | { is: 'connection'; there: boolean; why?: string }
  | { is: 'stopped'; why: string }

/** What a run is made of besides the broker: where it writes, and what it is told. */
export interface RunParts {
  broker: Broker
  known: Known
  plan: Plan
  /** False: it watches, lists what it would send, and sends nothing. */
  acts: boolean
  write(entry: RunEntry, at: number): void
}

/** Bars before the first that counts, for rules whose memory is long. */
const BARS_BEFORE = 400
/** How often an order that could not be brought to the broker is tried again, real milliseconds. */
const AGAIN = [250, 500, 1000, 2000, 4000]

/**
 * One plan run against the broker: source, step, sink. Everything that comes is taken one after the other; what the plan
 * wants is written down before it is sent, under an id that the same want always has, so that it is never sent twice.
 */
export class Run {
  private readonly prepared: Prepared
  readonly state: PlanState
  private readonly stops: (() => void)[] = []
  private readonly sending = new Set<Promise<void>>()
  /** Market time of the last event. */
  at: number

  constructor(private readonly parts: RunParts) {
    const { plan, known } = parts
    this.prepared = prepare(plan, known.shared.listed)
    this.state = freshState(plan)
    this.at = known.now
  }

  private get symbols(): string[] {
    return [...new Set(this.parts.plan.sides.flatMap((side) => side.among.list))]
  }

  /** What it trades, and what the account holds besides: all of it is part of the equity. */
  private get quotedSymbols(): string[] {
    const { book, listed } = this.parts.known.shared
    const held = Object.values(book.holdings).filter(({ quantity }) => quantity !== 0)
    return [...new Set([...this.symbols, ...held.map(({ symbol }) => symbol)])].filter((one) => listed[one])
  }

  private get frames(): string[] {
    return [...new Set(this.parts.plan.sides.map((side) => timeframeText(parseTimeframe(side.if.every)!)))]
  }

  /** Catches up with the past, sending nothing, and then follows the market until it is stopped. */
  async start(): Promise<void> {
    const { plan, known, acts, broker, write } = this.parts
    write({ is: 'started', plan: plan.id, version: plan.version, acts, worldId: known.worldId }, this.at)
    this.take({ is: 'time', at: known.now }, false)
    for (const report of known.reports) this.take({ is: 'report', at: known.now, report }, false)
    for (const quote of await broker.quotes(this.quotedSymbols)) this.quoted(quote)
    const lastEnd = await this.pastBars()
    this.followReports()
    this.followQuotes()
    for (const every of this.frames) this.followBars(every, lastEnd)
  }

  /** Steps bars that are over by now; gives the end of the last of them. */
  private async pastBars(): Promise<number> {
    let last = 0
    for (const every of this.frames) {
      const buffer = await this.parts.broker.bars(every, { symbols: this.symbols, limit: BARS_BEFORE })
      const set = openTable(decodeBars(buffer))
      set.symbols.forEach((symbol, i) => {
        for (let row = 0; row < set.bars[i].time.length; row++) {
          const bar = barAt(set.bars[i], row)
          this.take({ is: 'bar', at: bar.end, symbol, every, bar }, false)
          last = Math.max(last, bar.end)
        }
      })
    }
    return last
  }

  private followReports(): void {
    const { broker, known } = this.parts
    const after = known.reports.at(-1)?.seq ?? 0
    const path = `${broker.executionStream}${broker.executionStream.includes('?') ? '&' : '?'}after=${after}`
    this.follow(path, (event, data) => {
      if (event !== 'executionReport') return
      const report = ExecutionReport.parse(JSON.parse(data))
      if (report.seq <= known.shared.book.seq) return
      takeShared(known.shared, report)
      this.parts.write({ is: 'report', report }, this.at)
      this.take({ is: 'report', at: Date.parse(report.transactTime), report }, this.parts.acts)
    })
  }

  private followQuotes(): void {
    const path = `/quotes/stream?symbols=${this.quotedSymbols.map(encodeURIComponent).join(',')}`
    this.follow(path, (event, data) => {
      if (event !== 'quotes') return
      for (const one of JSON.parse(data) as unknown[]) this.quoted(QuoteTick.parse(one))
    })
  }

  private quoted({
    symbol,
    at: text,
    bid,
    ask,
    last,
  }: Pick<QuoteTick, 'symbol' | 'at' | 'bid' | 'ask' | 'last'>): void {
    const at = Date.parse(text)
    this.parts.known.shared.quotes[symbol] = { at, bid, ask, last }
    this.take({ is: 'quote', at, symbol, bid, ask, last }, this.parts.acts)
  }

  private followBars(every: string, after: number): void {
    const path = `/bars/stream?symbols=${this.symbols.map(encodeURIComponent).join(',')}&every=${encodeURIComponent(every)}`
    this.follow(
      path,
      (event, data, id) => {
        if (event !== 'bar') return
        const { symbol, time, ...values } = JSON.parse(data) as Record<string, never>
        const end = Date.parse(id!)
        const bar = { ...(values as object), time: Date.parse(time), end } as ReturnType<typeof barAt>
        this.take({ is: 'bar', at: end, symbol, every, bar }, this.parts.acts)
      },
      after > 0 ? new Date(after).toISOString() : undefined,
    )
  }

  private follow(
    path: string,
    event: (event: string, data: string, id?: string) => void,
    lastId?: string,
  ): void {
    const { broker, write } = this.parts
    let was = true
    this.stops.push(
      follow(
        broker,
        path,
        {
          event: (one) => event(one.event, one.data, one.id),
          there: () => {
            if (!was) write({ is: 'connection', there: true }, this.at)
            was = true
          },
          away: (error) => {
            if (was && error) write({ is: 'connection', there: false, why: String(error) }, this.at)
            was = was && !error
          },
        },
        lastId,
      ),
    )
  }

  private take(event: PlanEvent, acts: boolean): void {
    const { known, write } = this.parts
    this.at = Math.max(this.at, event.at)
    const { traces, intents } = step(
      this.prepared,
      this.state,
      known.shared,
      event,
      acts || this.watches(event),
    )
    for (const trace of traces) write({ is: 'trace', trace }, this.at)
    for (const intent of intents) {
      write({ is: 'intent', intent, sends: this.parts.acts }, this.at)
      if (this.parts.acts) this.send(intent.order)
      else this.drop(intent.order)
    }
  }

  /** One that only watches judges what comes now as if it acted, and forgets what it would have sent. */
  private watches = (event: PlanEvent): boolean =>
    !this.parts.acts && this.stops.length > 0 && event.is !== 'report'

  /** What is not sent holds nothing back. */
  private drop({ clOrdId, symbol }: NewOrder): void {
    const { pending } = this.parts.known.shared
    delete pending[clOrdId]
    if (this.state.orders[clOrdId]?.orderId === undefined) {
      this.state.orders[clOrdId] = { ...this.state.orders[clOrdId], symbol, works: false }
    }
  }

  private send(order: NewOrder): void {
    const job = this.sendNow(order).finally(() => this.sending.delete(job))
    this.sending.add(job)
  }

  /** Sends until the broker has answered, or the last try has failed; a repeated one is refused there and does no harm. */
  private async sendNow(order: NewOrder): Promise<void> {
    const { broker, write } = this.parts
    const began = Date.now()
    for (let tries = 0; ; tries++) {
      try {
        await broker.send(order)
        return write({ is: 'taken', clOrdId: order.clOrdId, waited: Date.now() - began }, this.at)
      } catch (error) {
        if (!(error instanceof BrokerProblem)) throw error
        // One that stands already under this id is this one.
        if (error.status === 409 && error.order)
          return write({ is: 'taken', clOrdId: order.clOrdId, waited: Date.now() - began }, this.at)
        if (error.status >= 400 && error.status < 500 && error.status !== 429) {
          this.drop(order)
          return write(
            { is: 'refused', clOrdId: order.clOrdId, why: `${error.title}: ${error.detail}` },
            this.at,
          )
        }
        if (tries >= AGAIN.length) {
          // It may have arrived: its report tells, and it stays reserved until then.
          return write({ is: 'not sent', clOrdId: order.clOrdId, why: error.detail }, this.at)
        }
        await new Promise((resolve) => setTimeout(resolve, AGAIN[tries]))
      }
    }
  }

  /**
   * Takes up what was wanted when it ended and of which nothing is known: sent while its moment lasts, else told as not sent.
   * One that has reached the broker stands there under its id.
   */
  async resume(open: readonly { order: NewOrder; at: number }[], lasts: number): Promise<void> {
    for (const { order, at } of open) {
      if (this.state.orders[order.clOrdId]?.orderId !== undefined) continue
      if (this.parts.acts && this.at - at <= lasts) await this.sendNow(order)
      else this.parts.write({ is: 'not sent', clOrdId: order.clOrdId, why: 'its moment has passed' }, this.at)
    }
  }

  /** Ends following, once what was being sent is answered. What is held stays, with its exits at the broker. */
  async stop(why: string): Promise<void> {
    for (const stop of this.stops.splice(0)) stop()
    await Promise.all(this.sending)
    this.parts.write({ is: 'stopped', why }, this.at)
  }
}
