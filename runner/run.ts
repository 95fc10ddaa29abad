import { type Intent, type PlanEvent, type Want } from '@/core/engine/events'
import { endedText } from '@/core/engine/obstacles'
import { withoutStop } from '@/core/engine/byHand'
import { firedAt } from '@/core/engine/fired'
import { isOwn, setWorks } from '@/core/engine/reports'
import { unreserve } from '@/core/engine/shared'
import { prepare, type Prepared, type PreparedReading } from '@/core/engine/prepare'
import { freshState, type PlanState } from '@/core/engine/state'
import { step } from '@/core/engine/step'
import { type Adjustment } from '@/core/market/adjust'
import { type ExtraName } from '@/core/market/bars'
import { parseTimeframe } from '@/core/market/timeframe'
import { localDate } from '@/core/market/venue'
import { underlyingOf } from '@/core/options/osi'
import { type ExecutionReport } from '@/core/orders/model'
import { barsBefore } from '@/core/plans/barsBefore'
import { type FoundNow } from '@/core/plans/found'
import { contractsOf } from '@/core/plans/drawn'
import { bound } from '@/core/plans/inputs'
import { countsOf, pricesOf } from '@/core/plans/texts'
import { type DatedEvent, type Seen } from '@/core/plans/seen'
import { asksForBases, basesOf } from './bases'
import { listContracts } from './connect'
import { type RunEntry } from './entries'
import { Gathered } from './gathered'
import { type Member } from './hub'
import { isLate } from './late'
import { Learned } from './learned'
import { idOf, isNeeded, Sink } from './sink'
import { type RunParts } from './runParts'
import { Dated, toldEvent, type ToldPlan } from './told'
import { isDue, isSought, type LookedUp, universeOf } from './universe'
import { Unavailable } from './unavailable'

/**
 * One plan run against the broker: source, step, sink. Everything that comes is taken one after the other; what the plan
 * wants is written down before it is sent, under an id that the same want always has, so that it is never sent twice.
 */
export class Run implements Member {
  private prepared!: Prepared
  readonly state: PlanState
  private readonly sink: Sink
  private looksUp = false
  /** Whether the last line could not be written. */
  private full = false
  /** When each side was last looked up, and on which session date. */
  private readonly lookedUp: LookedUp[] = []
  private readonly dated: Dated
  private readonly learned: Learned
  /** Market time of the last event. */
  at: number
  /** Looks so far in this life of it. */
  get looks(): number {
    return this.state.looks ?? 0
  }

  /** Why it stands still; undefined while it does not. */
  idleWhy: string | undefined

  private readonly parts: RunParts

  constructor(given: RunParts) {
    const plan = bound(given.plan)
    const parts = (this.parts = { ...given, plan })
    const { hub } = parts
    this.state = freshState(plan)
    this.at = hub.at
    this.learned = new Learned(plan, hub, (why) => void this.write({ is: 'trouble', why }))
    this.dated = new Dated(parts.since ?? hub.at)
    this.dated.add(plan.events ?? [])
    this.sink = new Sink(
      hub.broker,
      (entry) => void this.write(entry),
      (want, why) => this.refused(want, why),
    )
  }

  /** Writes something down; false where that failed. */
  write(entry: RunEntry): boolean {
    try {
      this.parts.write(entry, this.at)
      this.full = false
      return true
    } catch (error) {
      // Told once, not with each line.
      if (!this.full) this.parts.trouble?.(`${this.parts.plan.name}: ${(error as Error).message}`)
      this.full = true
      return false
    }
  }

  /** What it looks at, holds or has orders for. */
  get symbols(): string[] {
    const { held, working } = this.state
    const own = Object.keys(held).filter((symbol) => held[symbol].quantity !== 0)
    const members = this.prepared.sides.flatMap(({ members: one }) => [...one.keys()])
    const mates = this.prepared.sides.flatMap(({ mates: one }) => [...one.keys()])
    const beside = this.readings.flatMap(({ readers }) => [...readers.keys()])
    return [...new Set([...members, ...mates, ...beside, ...own, ...Object.keys(working)])]
  }

  get contracts(): string[] {
    const held = Object.values(this.state.held).flatMap(({ quantity, legs = [] }) =>
      quantity === 0 ? [] : legs,
    )
    return [...new Set([...contractsOf(this.parts.plan), ...held.map(({ symbol }) => symbol)])]
  }

  /** What its sides ask of bars, of each length. */
  private get readings(): PreparedReading[] {
    return this.prepared.sides.flatMap((side) => (side.held ? [side, side.held] : [side]))
  }

  get frames(): string[] {
    return [...new Set(this.readings.map(({ every }) => every))]
  }

  prices(every: string): Adjustment {
    const own = this.prepared.sides.find((one) => one.every === every || one.held?.every === every)!
    return pricesOf(own.side)
  }

  barsBefore(every: string): number {
    const { sides } = this.parts.plan
    return Math.max(...sides.map((side) => barsBefore(side, this.symbols.length, parseTimeframe(every)!)))
  }

  get counts(): ExtraName[] {
    return [...new Set(this.parts.plan.sides.flatMap(countsOf))]
  }

  get growing(): string[] {
    return this.readings.flatMap(({ every, ticks }) => (ticks ? [every] : []))
  }

  /** Catches up with the past, sending nothing, and then follows the market until it is stopped. */
  async start(): Promise<void> {
    const { plan, acts, hub, seen } = this.parts
    const { shared, worldId } = hub.known
    const since = hub.at
    this.write({ is: 'started', plan: plan.id, version: plan.version, acts, worldId })
    const found = await Promise.all(
      plan.sides.map((_side, at) => universeOf(hub.broker, plan, at, shared, hub.reports)),
    )
    const [ended] = await listContracts(hub.broker, shared.listed, contractsOf(plan))
    if (ended !== undefined) throw new Unavailable(endedText(ended))
    if (asksForBases(plan.sides) && shared.bases.dayE4 === undefined)
      shared.bases = await basesOf(hub.broker, shared, hub.at)
    const symbols = found.map((one) => one.symbols)
    await this.learned.figures(this.at)
    this.prepared = prepare(plan, shared.listed, symbols)
    found.forEach((one, side) => {
      this.lookedUp[side] = { at: hub.at, date: this.date }
      if (isSought(plan.sides[side])) this.write({ is: 'universe', side, ...one })
    })
    this.past({ is: 'time', at: hub.at })
    if (seen) {
      // What was still waiting when it ended is looked at once more.
      const book = Object.fromEntries(Object.entries(seen).filter(([, entry]) => !entry.waits))
      this.past({ is: 'seen', at: hub.at, book })
    }
    if (this.parts.view) this.past({ is: 'view', at: hub.at, view: this.parts.view })
    await this.learned.market(this.symbols, this.at)
    if (!this.over) await hub.join(this)
    // Stopped meanwhile, it is never begun.
    if (this.over) return
    this.gathered.flush()
    const { goesOn } = this.parts
    this.armedSince = (goesOn ? this.parts.since : undefined) ?? since
    this.writeResult()
    if (goesOn) this.take({ is: 'go on', at: this.at, since: this.armedSince }, true)
    if (this.parts.atOnce) this.take({ is: 'act now', at: this.at, since }, true)
  }

  /** Whether it was stopped, be it while it was still being begun. */
  private over = false

  /** Market moment since which it has been armed without being stopped. */
  private armedSince = Infinity

  private get date(): string {
    return localDate(this.parts.hub.known.shared.home, this.at)
  }

  reported(report: ExecutionReport): void {
    if (isOwn(this.state, report)) this.write({ is: 'report', report })
    else if (!this.state.held[underlyingOf(report.symbol)]) return
    // A stop that is there now, or no more, changes what is told as well.
    if (report.execType === 'Trade' || report.parentOrderId !== undefined) this.writeResult()
  }

  private writeResult(): void {
    const { held, takenE4 } = this.state
    const own = Object.entries(held).filter(([, { quantity }]) => quantity !== 0)
    const bare = own.flatMap(([symbol]) => {
      const shares = withoutStop(this.state, symbol)
      return shares > 0 ? [[symbol, shares] as const] : []
    })
    this.write({
      is: 'result',
      held: Object.fromEntries(own.map(([symbol, { quantity }]) => [symbol, quantity])),
      takenE4: Object.values(takenE4).reduce((a, b) => a + b, 0),
      ...(bare.length > 0 ? { withoutStop: Object.fromEntries(bare) } : {}),
      fired: firedAt(this.state),
    })
  }

  idle(why: string): void {
    this.gathered.drop()
    this.idleWhy = why
    this.write({ is: 'idle', why })
  }

  past(event: PlanEvent): void {
    this.take(event, false)
  }

  /** Bars that end together, in its own order. */
  private readonly gathered = new Gathered(
    () => this.symbols,
    // What was over long ago, as after a time without the broker, leads to nothing any more.
    (bar) => this.take(bar, !isLate(bar, this.parts.hub)),
  )

  hear(event: PlanEvent): void {
    if (this.over) return
    if (event.is === 'bar') return this.gathered.add(event)
    this.gathered.flush()
    this.take(event, true)
    if (event.is === 'time') this.takeDue(event.at)
    if (event.is === 'time') {
      void this.learned.market(this.symbols, this.at)
      void this.learned.figures(this.at)
    }
    if (event.is === 'time' || event.is === 'report')
      void this.lookUp(event.is === 'report' && event.report.execType === 'Trade')
  }

  /** Events that wait until what they tell of is looked at, one after the other. */
  private joining: Promise<void> | undefined

  /** Takes events whose moment has come, oldest first; a security of which the first event tells is looked at before. */
  private takeDue(now: number): void {
    for (const one of this.dated.due(now)) {
      const sides = this.sidesForAny(one.symbol)
      if (sides.length === 0 && !this.joining) this.takeDated(one)
      else {
        const before = this.joining ?? Promise.resolve()
        const own: Promise<void> = (this.joining = before
          .then(() => this.joinAny(one.symbol))
          .then(() => this.takeDated(one))
          .finally(() => {
            if (this.joining === own) this.joining = undefined
          }))
      }
    }
  }

  private takeDated({ key, symbol, at, text }: DatedEvent): void {
    this.take({ is: 'dated', at: Date.parse(at), key, symbol, ...(text === undefined ? {} : { text }) }, true)
  }

  /** Sides that look at any security, and not at this one yet although it can be ordered. */
  private sidesForAny(symbol: string): number[] {
    const security = this.parts.hub.known.shared.listed[symbol]?.security
    if (!security?.orderable || security.option) return []
    return this.parts.plan.sides.flatMap(({ among }, at) =>
      'any' in among && !this.prepared.sides[at].members.has(symbol) ? [at] : [],
    )
  }

  private async joinAny(symbol: string): Promise<void> {
    const sides = this.sidesForAny(symbol)
    if (sides.length === 0) return
    for (const side of sides) {
      const symbols = [...this.prepared.sides[side].members.keys(), symbol]
      this.past({ is: 'universe', at: this.at, side, symbols })
    }
    try {
      await this.parts.hub.refresh(this)
    } catch (error) {
      this.write({ is: 'trouble', why: `${symbol} could not be looked at: ${(error as Error).message}` })
    }
  }

  /**
   * Looks up anew what its sides look at, where that is due: positions when something was traded, a search with each session or
   * when its minutes are over. What is new is caught up with first.
   */
  private async lookUp(traded: boolean): Promise<void> {
    const { plan, hub } = this.parts
    const due = plan.sides.flatMap((side, at) =>
      isDue(side, this.lookedUp[at], { at: this.at, date: this.date, traded }) ? [{ side, at }] : [],
    )
    if (this.looksUp || due.length === 0) return
    this.looksUp = true
    try {
      let changed = false
      const fresh: string[] = []
      const signals: { side: number; symbols: string[] }[] = []
      for (const { side, at } of due) {
        const found = await this.foundBy(at)
        if (!found) continue
        if (found.symbols.join() === [...this.prepared.sides[at].members.keys()].join()) continue
        changed = true
        const before = this.prepared.sides[at].members
        const own = found.symbols.filter((symbol) => !before.has(symbol))
        fresh.push(...own)
        if ('found' in side.among && side.among.found.signal) signals.push({ side: at, symbols: own })
        if (isSought(side)) this.write({ is: 'universe', side: at, ...found })
        this.past({ is: 'universe', at: this.at, side: at, symbols: found.symbols })
      }
      if (changed) await hub.refresh(this)
      // What is found newly may have begun with the last close.
      if (fresh.length > 0)
        this.take({ is: 'go on', at: this.at, since: this.armedSince, symbols: fresh }, true)
      // A security that a search finds newly may be a signal by itself.
      for (const one of signals) this.take({ is: 'act now', at: this.at, since: this.at, ...one }, true)
    } catch (error) {
      this.write({ is: 'trouble', why: (error as Error).message })
    } finally {
      this.looksUp = false
    }
  }

  /** What a side looks at from now on. Where that cannot be told it stands still, and says so: of old results nothing is bought. */
  private async foundBy(at: number): Promise<FoundNow | undefined> {
    const { plan, hub } = this.parts
    const { failed } = this.lookedUp[at]
    this.lookedUp[at] = { at: this.at, date: this.date }
    try {
      return await universeOf(hub.broker, plan, at, hub.known.shared, hub.reports)
    } catch (error) {
      this.lookedUp[at].failed = true
      if (failed) return undefined
      this.past({ is: 'universe', at: this.at, side: at, symbols: [] })
      const why = `It looks at nothing until it is known what to look at, which is asked every minute: ${(error as Error).message} What it holds is still watched.`
      this.write({ is: 'trouble', why })
      return undefined
    }
  }

  /** Takes what is told from outside: events of a list at their moments, all else now. */
  tell(told: ToldPlan): void {
    this.gathered.flush()
    // What stands still has nothing to answer with.
    if (this.idleWhy !== undefined) return
    if (told.is === 'event') this.dated.add([told])
    else if (told.is === 'seen') this.correct(told)
    else {
      const event = toldEvent(told, this.at, this.date)
      if (event.is === 'view') this.write({ is: 'view', view: event.view })
      this.take(event, true)
    }
  }

  /** The trader says what became of something in the seen book: it is so from now on, and waits no more. */
  private correct({ key, became, note }: Extract<ToldPlan, { is: 'seen' }>): void {
    const known = this.state.seen[key]
    if (!known)
      return void this.write({ is: 'trouble', why: `Nothing stands in its seen book under “${key}”.` })
    const { waits: _waits, ...before } = known
    const entry: Seen = { ...before, became, ...(note === undefined ? {} : { note }) }
    this.take({ is: 'seen', at: this.at, book: { [key]: entry } }, true)
    if (this.parts.acts) this.write({ is: 'seen', key, entry })
  }

  /** Steps the plan. What comes live is judged, also where it only watches: it forgets then what it would have sent. */
  private take(event: PlanEvent, judges: boolean): void {
    const { shared } = this.parts.hub.known
    this.at = Math.max(this.at, event.at)
    const heard = Date.now()
    const { traces, intents, notes, misses, seen } = step(this.prepared, this.state, shared, event, judges)
    for (const trace of traces) this.write({ is: 'trace', trace })
    for (const note of notes) this.write({ is: 'note', note })
    for (const miss of misses) this.write({ is: 'miss', miss })
    // What it only watched it has not seen.
    if (this.parts.acts) for (const one of seen) this.write({ is: 'seen', ...one })
    for (const intent of intents) {
      const kept = this.write({ is: 'intent', intent, sends: this.parts.acts, decided: Date.now() - heard })
      // An entry that could not be written down would be forgotten by who begins anew: it is not sent.
      if (this.parts.acts && (kept || isNeeded(intent))) this.sink.take(intent)
      else this.drop(intent)
    }
  }

  /** What the broker has refused is told the plan: it may have to undo what went with it. */
  private refused(want: Want, text: string): void {
    if (want.is === 'send') this.take({ is: 'refused', at: this.at, clOrdId: want.order.clOrdId, text }, true)
  }

  /** What is not sent holds nothing back. */
  private drop(want: Want): void {
    if (want.is !== 'send') return
    const { clOrdId } = want.order
    unreserve(this.parts.hub.known.shared, clOrdId)
    const own = this.state.orders[clOrdId]
    if (own && own.orderId === undefined) setWorks(this.state, clOrdId, own, false)
  }

  /**
   * Takes up what was wanted when it ended and of which nothing is known: sent while its moment lasts, else told as not sent.
   * One that has reached the broker stands there under its id.
   */
  async resume(open: readonly Intent[], lasts: number): Promise<void> {
    for (const intent of open) {
      const known = intent.is === 'send' && this.state.orders[intent.order.clOrdId]?.orderId !== undefined
      if (known) continue
      // What leaves is needed as long as something is held.
      const held = intent.is === 'send' && (this.state.held[intent.order.symbol]?.quantity ?? 0) !== 0
      const still = this.parts.acts && (this.at - intent.at <= lasts || (isNeeded(intent) && held))
      if (still) await this.sink.now(intent)
      else this.write({ is: 'not sent', clOrdId: idOf(intent), why: 'its moment has passed' })
    }
  }

  /** Ends following, once what was being sent is answered. What is held stays, with its exits at the broker. */
  async stop(why: string): Promise<void> {
    this.gathered.flush()
    this.over = true
    this.parts.hub.leave(this)
    await this.sink.quiet()
    this.write({ is: 'stopped', why })
  }
}
