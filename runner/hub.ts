import { type Broker, follow } from '@/client'
import { decodeBars } from '@/core/formats/barsBinary'
import { type Adjustment } from '@/core/market/adjust'
import { type ExtraName } from '@/core/market/bars'
import { openTable } from '@/core/market/barTable'
import { tickedBy } from '@/core/market/growing'
import { localDate } from '@/core/market/venue'
import { QuoteTick } from '@/core/market/wire'
import { ExecutionReport } from '@/core/orders/model'
import { type PlanEvent } from '@/core/engine/events'
import { growBars, seedBar } from '@/core/engine/growing'
import { figuresAt, takeQuoted, takeShared } from '@/core/engine/shared'
import { barAt, type LiveBar } from '@/core/rules/exec/liveBar'
import { type Known } from './connect'
import { type RunEntry } from './entries'
import { heldBy } from './universe'

/** A plan that is stepped by what the hub hears. */
export interface Member {
  /** What it looks at, holds or has orders for, and its timeframes; those that it looks at before they are complete. */
  readonly symbols: readonly string[]
  /** Contracts that it opens or holds: they have quotes, and no bars. */
  readonly contracts: readonly string[]
  readonly frames: readonly string[]
  readonly growing: readonly string[]
  /** How its bars of a timeframe are made comparable. */
  prices(every: string): Adjustment
  /** Bars of a timeframe that it is fed before it is asked, of each security. */
  barsBefore(every: string): number
  /** Counts of trades that it reads of its bars. */
  readonly counts: readonly ExtraName[]
  /** Takes what came before it was there: nothing is wanted for it. */
  past(event: PlanEvent): void
  hear(event: PlanEvent): void
  /** After it has heard of it: a report that may be about one of its orders. */
  reported(report: ExecutionReport): void
  /** It hears nothing more, and stands still. */
  idle(why: string): void
  write(entry: RunEntry): void
}

/** Reports that one answer may hold. */
const MISSING = 10_000
/** Bars that one answer may hold. */
const MOST_BARS = 900_000
/**
 * Counts of trades that bars are asked for: what plans read of them, and ups and downs where they grow, for all plans together.
 * The broker makes the seconds of every minute to count them.
 */
const extrasOf = (members: readonly Member[], grow: boolean): ExtraName[] => {
  const read = members.flatMap(({ counts }) => counts)
  return [...new Set<ExtraName>([...(grow ? (['uptrades', 'downtrades'] as const) : []), ...read])]
}
const listOf = (symbols: readonly string[]): string => symbols.map(encodeURIComponent).join(',')

/**
 * One account and what the market says of it, for all of its plans: followed once, and told to each plan in the order in which
 * they were armed. What one of them wants is reserved before the next hears of the same.
 */
export class Hub {
  /** Of each plan: what it has yet to hear, while it catches up. */
  private readonly members = new Map<Member, PlanEvent[] | undefined>()
  /** Of the account, so far. */
  readonly reports: ExecutionReport[]
  private stopReports: (() => void) | undefined
  private stopQuotes: (() => void) | undefined
  private readonly stopBars = new Map<string, { stop(): void; follows: string }>()
  private quoted = ''
  private quoteStream: string | undefined
  /** End of the last bar that was heard, by timeframe. */
  private readonly ends = new Map<string, number>()
  /** Market time of the last event. */
  at: number

  constructor(
    readonly broker: Broker,
    readonly known: Known,
  ) {
    this.at = known.now
    this.reports = [...known.reports]
  }

  /** What the plans look at, and what the account holds besides: all of it is part of the equity. */
  private get quotedSymbols(): string[] {
    const own = [...this.members.keys()].flatMap(({ symbols, contracts }) => [...symbols, ...contracts])
    return [...new Set([...own, ...heldBy(this.known.shared)])]
  }

  /** Lets a plan catch up with reports and bars of the past, and hear everything from then on. */
  async join(member: Member): Promise<void> {
    const past = [...this.reports]
    this.members.set(member, [])
    for (const report of past) member.past({ is: 'report', at: this.at, report })
    await this.catchUp(member)
    if (!this.isEmpty) this.stopReports ??= this.followReports()
  }

  /** A plan looks at something else: what is new to it is caught up with. */
  async refresh(member: Member): Promise<void> {
    // It may have left while that was looked up.
    if (!this.members.has(member)) return
    this.members.set(member, this.members.get(member) ?? [])
    await this.catchUp(member)
  }

  private async catchUp(member: Member): Promise<void> {
    const { shared } = this.known
    for (const every of member.growing) growBars(shared.growing, every)
    const fresh = this.quotedSymbols.filter((symbol) => !shared.quotes[symbol])
    if (fresh.length > 0)
      for (const quote of await this.broker.quotes(fresh)) this.takeQuote({ ...quote }, false)
    for (const every of member.frames) await this.pastBars(member, every)
    // Who has left meanwhile hears nothing more.
    if (!this.members.has(member)) return
    for (const event of this.members.get(member) ?? []) member.hear(event)
    this.members.set(member, undefined)
    await this.followMarket()
  }

  /** Steps bars that are over by now, and takes over those that grow. */
  private async pastBars(member: Member, every: string): Promise<void> {
    if (member.symbols.length === 0) return
    const { growing } = this.known.shared
    const limit = member.barsBefore(every)
    const prices = member.prices(every)
    const grow = growing[every] !== undefined
    const asked = { limit, prices, soFar: grow, extras: extrasOf([member], grow) }
    const past: { symbol: string; bar: LiveBar }[] = []
    const atOnce = Math.max(1, Math.floor(MOST_BARS / limit))
    for (let from = 0; from < member.symbols.length; from += atOnce) {
      const symbols = member.symbols.slice(from, from + atOnce)
      const set = openTable(decodeBars(await this.broker.bars(every, { ...asked, symbols })))
      set.symbols.forEach((symbol, i) => {
        for (let row = 0; row < set.bars[i].time.length; row++) {
          const bar = barAt(set.bars[i], row)
          if (bar.end === Infinity) seedBar(growing, every, symbol, bar)
          else past.push({ symbol, bar })
        }
      })
    }
    // In the order of moments, as they came: of a pair both are needed.
    past.sort((a, b) => a.bar.end - b.bar.end)
    for (const { symbol, bar } of past) member.past({ is: 'bar', at: bar.end, symbol, every, bar })
    const last = past.at(-1)?.bar.end ?? 0
    if (!this.ends.has(every)) this.ends.set(every, last)
  }

  /** A plan is stepped no more; with the last of them nothing is followed. */
  leave(member: Member): void {
    this.members.delete(member)
    if (this.members.size > 0) return void this.followMarket()
    this.unfollow()
  }

  private unfollow(): void {
    for (const stop of [this.stopReports, this.stopQuotes]) stop?.()
    this.stopReports = this.stopQuotes = undefined
    for (const { stop } of this.stopBars.values()) stop()
    this.stopBars.clear()
  }

  get isEmpty(): boolean {
    return this.members.size === 0
  }

  private tell(event: PlanEvent): void {
    this.at = Math.max(this.at, event.at)
    for (const [member, waiting] of this.members) {
      if (waiting) waiting.push(event)
      else member.hear(event)
    }
  }

  private write(entry: RunEntry): void {
    for (const member of this.members.keys()) member.write(entry)
  }

  private followReports(): () => void {
    const { executionStream } = this.broker
    const after = this.reports.at(-1)?.seq ?? 0
    const path = `${executionStream}${executionStream.includes('?') ? '&' : '?'}after=${after}`
    return this.follow(path, (event, data) => {
      if (event !== 'executionReport') return
      const report = ExecutionReport.parse(JSON.parse(data))
      // One that is missing between is asked for, and this one comes with it.
      if (report.seq > this.known.shared.book.seq + 1) void this.askMissing()
      else this.takeReport(report)
    })
  }

  /** Takes the next report; one that was taken already is passed over, so that a stream may repeat itself. */
  private takeReport(report: ExecutionReport): void {
    const { shared } = this.known
    if (report.seq <= shared.book.seq) return
    takeShared(shared, report)
    this.reports.push(report)
    this.tell({ is: 'report', at: Date.parse(report.transactTime), report })
    for (const member of this.members.keys()) member.reported(report)
  }

  private asksMissing = false

  /** Asks for reports after the last one that came, until none is missing. */
  private async askMissing(): Promise<void> {
    if (this.asksMissing) return
    this.asksMissing = true
    try {
      const { book } = this.known.shared
      for (const report of await this.broker.executions(book.seq, MISSING)) this.takeReport(report)
    } catch (error) {
      this.write({
        is: 'trouble',
        why: `Reports of the broker after number ${this.known.shared.book.seq} are missing: ${(error as Error).message}`,
      })
    } finally {
      this.asksMissing = false
    }
  }

  /** Follows quotes and bars of what the plans look at now; what is followed already goes on. */
  private async followMarket(): Promise<void> {
    const wanted = this.quotedSymbols
    if (wanted.join() !== this.quoted || !this.stopQuotes) {
      this.quoted = wanted.join()
      // An open stream is told of the others, so that nothing that was traded meanwhile is missed.
      const changed =
        this.stopQuotes &&
        this.quoteStream !== undefined &&
        (await this.broker.followQuotes(this.quoteStream, wanted).then(
          () => true,
          () => false,
        ))
      // The last plan may have left meanwhile: nothing is followed for nobody.
      if (this.members.size === 0) return
      if (!changed) {
        this.stopQuotes?.()
        this.stopQuotes = this.followQuotes(wanted)
      }
    }
    const frames = new Set([...this.members.keys()].flatMap((member) => member.frames))
    for (const every of new Set([...frames, ...this.stopBars.keys()])) this.followBars(every)
  }

  private followQuotes(symbols: readonly string[]): () => void {
    return this.follow(`/quotes/stream?symbols=${listOf(symbols)}`, (event, data) => {
      if (event === 'stream') this.quotesBegun((JSON.parse(data) as { id: string }).id, symbols)
      else if (event === 'clock') this.clock(Date.parse((JSON.parse(data) as { now: string }).now))
      else if (event === 'quotes')
        for (const one of JSON.parse(data) as unknown[]) this.takeQuote(QuoteTick.parse(one), true)
    })
  }

  /** A stream that is taken up again follows what it was opened with: it is told of what has come since. */
  private quotesBegun(id: string, opened: readonly string[]): void {
    this.quoteStream = id
    if (this.quoted === opened.join()) return
    this.broker.followQuotes(id, this.quoted.split(',')).catch((error: Error) => {
      this.write({ is: 'trouble', why: `Quotes of what it looks at now are missing: ${error.message}` })
    })
  }

  private clock(now: number): void {
    const { shared } = this.known
    // What the account has when its date turns is what the day begins with.
    if (shared.bases.dayE4 !== undefined && localDate(shared.home, now) !== localDate(shared.home, this.at))
      shared.bases.dayE4 = figuresAt(shared, now).equityE4
    if (now > this.at) this.tell({ is: 'time', at: now })
  }

  private takeQuote(tick: QuoteTick, tells: boolean): void {
    const { symbol, bid, ask } = tick
    const ticked = tickedBy(tick)
    takeQuoted(this.known.shared, { symbol, bid, ask, ...ticked })
    if (tells) this.tell({ is: 'quote', symbol, bid, ask, ...ticked })
  }

  private followBars(every: string): void {
    const wanted = [...this.members.keys()].filter(({ frames }) => frames.includes(every))
    const symbols = [...new Set(wanted.flatMap((member) => member.symbols))]
    const extras = extrasOf(wanted, this.known.shared.growing[every] !== undefined).join(',')
    const there = this.stopBars.get(every)
    const follows = `${symbols.join()} ${extras}`
    if (there?.follows === follows) return
    there?.stop()
    this.stopBars.delete(every)
    if (symbols.length === 0) return
    const path = `/bars/stream?symbols=${listOf(symbols)}&every=${encodeURIComponent(every)}&extras=${extras}`
    const end = this.ends.get(every)
    const stop = this.follow(
      path,
      (event, data, id) => event === 'bar' && this.barOver(every, data, id!),
      // From just before the last that was heard: it may not have been told of all.
      end ? new Date(end - 1000).toISOString() : undefined,
    )
    this.stopBars.set(every, { stop, follows })
  }

  private barOver(every: string, data: string, id: string): void {
    const { symbol, time, ...values } = JSON.parse(data) as Record<string, never>
    const end = Date.parse(id)
    this.ends.set(every, Math.max(this.ends.get(every) ?? 0, end))
    const bar = { ...(values as object), time: Date.parse(time), end } as LiveBar
    const take = () => this.tell({ is: 'bar', at: end, symbol, every, bar })
    if (this.late) this.late.push(take)
    else take()
  }

  /** Streams that are away, and bars that are kept back until it is known how late they come. */
  private gone = 0
  private toldAway = false
  private late: (() => void)[] | undefined

  /** A stream is away: told once, however many are; one that was ended in good order comes again at once. */
  private away(error: unknown): void {
    this.late ??= []
    if (this.toldAway || !error) return
    this.toldAway = true
    this.write({ is: 'connection', there: false, why: String(error) })
  }

  /** A stream is there again: what it repeats is taken with the time that the market has by now. */
  private async there(): Promise<void> {
    this.noneGone()
    const who = await this.broker.whoami().catch(() => undefined)
    const { worldId } = this.known
    if (who && who.world.id !== worldId) return this.otherWorld(who.world.id)
    if (who) this.clock(Date.parse(who.now))
    this.takeLate()
  }

  /** The broker is in another world than the plans were begun in: what they know of it is true no more, and they stand still. */
  private otherWorld(id: string): void {
    const why = `the broker is in another world by now (${id}), and this was begun in ${this.known.worldId}: what it holds and has seen there is not here. Begin it anew.`
    for (const member of this.members.keys()) member.idle(why)
    this.members.clear()
    this.late = undefined
    this.unfollow()
  }

  private noneGone(): void {
    this.gone--
    if (this.gone > 0 || !this.toldAway) return
    this.toldAway = false
    this.write({ is: 'connection', there: true })
  }

  private takeLate(): void {
    const { late = [] } = this
    this.late = undefined
    for (const take of late) take()
  }

  private follow(
    path: string,
    event: (event: string, data: string, id?: string) => void,
    lastId?: string,
  ): () => void {
    let is: 'there' | 'away' | 'over' = 'there'
    const stop = follow(
      this.broker,
      path,
      {
        event: (one) => event(one.event, one.data, one.id),
        there: () => {
          if (is !== 'away') return
          is = 'there'
          void this.there()
        },
        away: (error) => {
          if (is === 'over') return
          if (is === 'there') this.gone++
          is = 'away'
          this.away(error)
        },
      },
      lastId,
    )
    return () => {
      const was = is
      is = 'over'
      stop()
      // Nobody waits for one that is followed no more.
      if (was !== 'away') return
      this.noneGone()
      if (this.gone === 0) this.takeLate()
    }
  }
}
