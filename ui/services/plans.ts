import * as z from 'zod'
import { type Broker } from '@/client'
import { Plan } from '@/core/plans/document'
import { Told, type ToldPlan } from '@/runner/told'
import { dayView } from '@/store/dayView'
import { db, sayStorageError } from '@/store/db'
import { seenBook, sinceFor } from '@/store/plans'
import { type PlanThread } from '@/workers/planThread'
import { type HeardEntry } from '@/workers/plans.protocol'
import { sayFailure } from '@/workers/say'
import { type BegunRow, begunRow, begunRows, changeBegun, fateOf, forgetBegun, noteBegun } from './begun'
import { Lead } from './lead'
import { type Place, Places } from './planPlaces'
import { type RunHere } from './runHere'
import { changeRun, trouble, useRuns, type WaitingRow } from './useRuns'

/** What another tab may ask of the one that runs plans. */
const Asked = z.discriminatedUnion('ask', [
  z.object({
    ...{ ask: z.literal('run'), plan: Plan, acts: z.boolean(), atOnce: z.boolean() },
    // A tab of an earlier build does not tell it.
    pressed: z.number().optional(),
  }),
  z.object({ ask: z.literal('stop'), id: z.string() }),
  z.object({ ask: z.literal('stop all') }),
  z.object({ ask: z.literal('tell all'), told: Told, only: z.string().optional() }),
])

/** How often the tab notes that its plans are alive, milliseconds of the wall clock. */
const BEAT = 10_000

interface Beginning {
  atOnce?: boolean
  /** Market time at which it was asked for: an event that comes while it is still being begun counts. */
  pressed?: number
  goesOn?: boolean
}

/**
 * Plans that run in this browser. One tab runs those of an account, so that one plan's orders are reserved before the next is asked;
 * other tabs ask it. A plan stays with the account that it was begun in, whatever the page looks at. Another open tab takes over
 * from one that closes; a tab that is loaded again goes on with its own plans (see fateOf).
 */
export class Plans {
  /** Account of each plan that runs here, and the world that the account is in. */
  private readonly running = new Map<string, { place: Place; worldId: string }>()
  /** Accounts of plans that are being begun. */
  private readonly beginning = new Map<string, string>()
  /** Those of them that are stopped before they have begun. */
  private readonly unwanted = new Set<string>()
  private readonly lead: Lead
  private readonly places: Places
  private thread: Promise<PlanThread> | undefined
  private beats: ReturnType<typeof setInterval> | undefined
  private readonly opened = Date.now()
  /** Whether another open tab would take over each account that this one leads for. */
  private hasHeir = false

  constructor(broker: Broker) {
    this.places = new Places(broker)
    this.lead = new Lead(
      (of, asking) => this.asked(of, Asked.parse(asking)),
      (of) => this.takeOver(of),
    )
  }

  start(): void {
    this.lead.start()
    this.beats = setInterval(() => void this.beat(), BEAT)
    window.addEventListener('beforeunload', this.asksBeforeLeaving)
    this.lookAround().catch((error: unknown) => trouble((error as Error).message))
  }

  private asksBeforeLeaving = (event: BeforeUnloadEvent): void => {
    const armed = Object.values(useRuns.getState().runs).some(({ acts, idle }) => acts && !idle)
    if (armed && !this.hasHeir) event.preventDefault()
  }

  /** Notes that the plans of this tab are alive; tries again what could not begin. */
  private async beat(): Promise<void> {
    try {
      for (const id of this.running.keys()) await changeBegun(id, { alive: Date.now() })
      await this.lookForHeir()
      const again = useRuns.getState().waiting.filter(({ why }) => why === 'goes on')
      for (const of of new Set(again.map(({ row }) => row.of))) await this.takeOver(of)
    } catch (error) {
      trouble(sayStorageError(error))
    }
  }

  private async lookForHeir(): Promise<void> {
    const { hasHeir } = await Lead.ledNow()
    this.hasHeir = [...this.running.values()].every(({ place }) => hasHeir(place.of))
  }

  /** Waits to take over what other tabs run, and goes on with what was left by tabs that are gone. */
  private async lookAround(): Promise<void> {
    const { isLed } = await Lead.ledNow()
    const all = new Set((await begunRows()).map(({ of }) => of))
    for (const of of all) {
      if (isLed(of) && !this.lead.leadsFor(of)) this.lead.wait(of)
      else await this.takeOver(of)
    }
  }

  /** Goes on with what ran in a tab that is gone, as far as that goes on by itself; the rest waits, and says for what. */
  private async takeOver(of: string): Promise<void> {
    const rows = (await begunRows()).filter((row) => row.of === of && !this.running.has(row.plan.id))
    const waiting: WaitingRow[] = []
    const wentOn: string[] = []
    for (const row of rows) {
      const why = fateOf(row, Date.now(), this.places.has(row))
      const failed = why === 'goes on' ? await this.goOnWith(row) : undefined
      if (why !== 'goes on' || failed !== undefined) waiting.push({ row, why, trouble: failed })
      else wentOn.push(row.plan.name)
    }
    useRuns.setState((state) => ({
      waiting: [...state.waiting.filter(({ row }) => row.of !== of), ...waiting],
      wentOn: [...state.wentOn, ...wentOn],
    }))
    this.leaveIfIdle(of)
  }

  /** Begins a plan where another tab left it. Gives why that failed, or nothing. */
  private async goOnWith(row: BegunRow): Promise<string | undefined> {
    const { plan, acts, of, worldId, atOnce } = row
    if (!(await this.lead.lead(of))) {
      this.lead.wait(of)
      return undefined
    }
    try {
      const place = this.places.of(row)
      const { worldId: now } = await this.inThread((thread) => thread.account(this.places.where(place)))
      if (now !== worldId) {
        await forgetBegun(plan.id)
        trouble(
          `${plan.name} ended: the broker is in another world now, and the plan’s orders are not there. Arm it anew.`,
        )
        return undefined
      }
      await this.beginInTurn(plan.id, of, () => this.begin(plan, acts, place, { goesOn: true, atOnce }))
      return undefined
    } catch (error) {
      return (error as Error).message
    }
  }

  /** Goes on with a plan that waits, because the trader says so. Throws Error that says why it cannot. */
  async goOn(id: string): Promise<void> {
    const row = await begunRow(id)
    if (!row) return
    if (!this.places.has(row))
      throw new Error(`${row.plan.name} trades with the key ${row.keyId}. Use that key first.`)
    const failed = await this.goOnWith(row)
    if (failed !== undefined) throw new Error(`${row.plan.name} cannot go on: ${failed}`)
    this.waitNoMore(id)
  }

  /** Ends a plan that waits. What it holds stays, with its exits at the broker. */
  async letEnd(id: string): Promise<void> {
    await forgetBegun(id)
    this.waitNoMore(id)
  }

  private waitNoMore(id: string): void {
    useRuns.setState(({ waiting }) => ({ waiting: waiting.filter(({ row }) => row.plan.id !== id) }))
  }

  /** The page talks with another key: plans that waited for it go on. */
  async connected(): Promise<void> {
    await this.places.current()
    const { waiting } = useRuns.getState()
    for (const of of new Set(waiting.map(({ row }) => row.of))) await this.takeOver(of)
  }

  /**
   * Begins to run a plan in the account that the page looks at, here or in the tab that runs the others of the account; armed it
   * sends, else it watches. If it runs already it is ended first. Throws Error that says why it does not begin.
   */
  async run(plan: Plan, acts: boolean, atOnce = false): Promise<void> {
    const [place, pressed] = await Promise.all([this.places.current(), this.places.now()])
    const before = await begunRow(plan.id)
    if (before && before.of !== place.of) await this.stop(plan.id)
    if (await this.lead.lead(place.of)) return this.runHere(plan, acts, { atOnce, pressed }, place)
    await this.lead.ask(place.of, { ask: 'run', plan, acts, atOnce, pressed })
    this.lead.wait(place.of)
  }

  private async runHere(
    plan: Plan,
    acts: boolean,
    { atOnce, pressed }: Beginning,
    place: Place,
  ): Promise<void> {
    await this.beginInTurn(plan.id, place.of, async () => {
      await this.endNow(plan.id)
      try {
        await this.begin(plan, acts, place, { atOnce, pressed })
      } finally {
        this.leaveIfIdle(place.of)
      }
    })
    this.waitNoMore(plan.id)
    this.lead.tellBegun(place.of)
    void this.lookForHeir()
  }

  /** Starts and stops a plan in the order in which they were asked for. */
  private inTurn(id: string, work: () => Promise<void>): Promise<void> {
    return navigator.locks.request(`heron-plan ${id}`, work)
  }

  /** Begins a plan of an account once all that was wanted of it before is over. */
  private beginInTurn(id: string, of: string, begin: () => Promise<void>): Promise<void> {
    return this.inTurn(id, async () => {
      this.beginning.set(id, of)
      try {
        await begin()
      } finally {
        this.beginning.delete(id)
        this.unwanted.delete(id)
      }
    })
  }

  private note(
    plan: Plan,
    acts: boolean,
    { of, environment, account, keyId }: Place,
    atOnce = false,
  ): Promise<unknown> {
    const { worldId } = this.running.get(plan.id)!
    const alive = Date.now()
    return noteBegun({
      ...{ plan, acts, of, environment, account, worldId, tab: this.opened, alive },
      ...(keyId === undefined ? {} : { keyId }),
      ...(atOnce ? { atOnce } : {}),
    })
  }

  private async asked(of: string, asked: z.infer<typeof Asked>): Promise<unknown> {
    switch (asked.ask) {
      case 'run':
        return this.runHere(asked.plan, asked.acts, asked, this.placeLed(of) ?? (await this.places.current()))
      case 'stop':
        return this.stopHere(asked.id)
      case 'stop all':
        return this.stopAllHere(of)
      case 'tell all':
        return this.tellHere(asked.told, asked.only)
    }
  }

  private placeLed = (of: string): Place | undefined =>
    [...this.running.values()].find(({ place }) => place.of === of)?.place

  /** Leads for an account no more if nothing of it runs here. */
  private leaveIfIdle(of: string): void {
    if (!this.placeLed(of)) this.lead.leave(of)
  }

  private async begin(
    plan: Plan,
    acts: boolean,
    place: Place,
    { atOnce = false, goesOn = false, pressed = Infinity }: Beginning,
  ): Promise<void> {
    const where = this.places.where(place)
    try {
      const { at, date, worldId } = await this.inThread((thread) => thread.account(where))
      this.running.set(plan.id, { place, worldId })
      const fresh: RunHere = {
        ...{ plan, acts, of: place.of, where: this.places.text(place) },
        ...{ said: [], funnel: {}, looks: [], asks: [], waits: [], looked: 0, entered: 0 },
      }
      useRuns.setState(({ runs }) => ({ runs: { ...runs, [plan.id]: fresh } }))
      // Before it runs: a page that is loaded again meanwhile begins it.
      if (!goesOn) await this.note(plan, acts, place, atOnce)
      const from = Math.min(at, pressed)
      const [seen, view, since] = await Promise.all([
        seenBook(plan.id, worldId),
        dayView(date),
        acts ? sinceFor(plan.id, from, worldId) : from,
      ])
      if (this.unwanted.has(plan.id)) throw new Error(`${plan.name} was stopped before it had begun.`)
      await this.inThread((thread) => thread.begin({ where, plan, acts, atOnce, goesOn, seen, view, since }))
      if (goesOn || atOnce) await this.note(plan, acts, place)
    } catch (error) {
      this.forget(plan.id)
      // What could not go on waits and is tried again, unless it was stopped.
      if (!goesOn || this.unwanted.has(plan.id)) await forgetBegun(plan.id)
      throw error
    }
  }

  /** Asks the worker that runs plans. Throws Error with what is wrong, in words. */
  private async inThread<T>(ask: (thread: PlanThread) => Promise<T>): Promise<T> {
    // What runs plans is fetched when the first is begun: no other page waits for it.
    this.thread ??= Promise.all([import('@/workers/planThread'), import('./runHere')]).then(
      ([{ PlanThread: Thread }, { withHeard }]) =>
        new Thread(
          (where) => this.places.sourceOf(where),
          (plan, entries) => this.heard(plan, entries, withHeard),
          (reason) => this.broke(reason),
        ),
    )
    try {
      return await ask(await this.thread)
    } catch (error) {
      throw new Error(sayFailure(error), { cause: error })
    }
  }

  /** The worker is gone, and with it all that ran in it. What is held stays, with its exits at the broker. */
  private broke(reason: string): void {
    const { runs } = useRuns.getState()
    const names = [...this.running.keys()].map((id) => runs[id]?.plan.name ?? id)
    this.thread = undefined
    for (const id of [...this.running.keys()]) {
      this.forget(id)
      void forgetBegun(id)
    }
    if (names.length > 0)
      trouble(
        `The worker that runs plans has stopped (${reason}): ${names.join(', ')} ended. Arm them again.`,
      )
  }

  /** Ends running a plan, here or in the tab that runs it. What is held stays, with its exits at the broker. */
  async stop(id: string): Promise<void> {
    if (this.running.has(id) || this.beginning.has(id)) return this.stopHere(id)
    const row = await begunRow(id)
    if (!row) return
    const { isLed } = await Lead.ledNow()
    if (isLed(row.of) && !this.lead.leadsFor(row.of)) await this.lead.ask(row.of, { ask: 'stop', id })
    else await this.letEnd(id)
  }

  private async stopHere(id: string): Promise<void> {
    const of = this.running.get(id)?.place.of ?? this.beginning.get(id)
    await this.endHere(id)
    if (of !== undefined) this.leaveIfIdle(of)
  }

  /** Ends a plan. One that is still being begun is ended at once, before it can send anything. */
  private endHere(id: string): Promise<void> {
    if (this.beginning.has(id)) {
      this.unwanted.add(id)
      void this.inThread((thread) => thread.stop(id, 'stopped by hand')).catch(() => undefined)
    }
    return this.inTurn(id, () => this.endNow(id))
  }

  private async endNow(id: string): Promise<void> {
    if (!this.running.has(id)) return
    await this.inThread((thread) => thread.stop(id, 'stopped by hand'))
    // Before the lock is given back: nobody is to take it over.
    await forgetBegun(id)
    this.forget(id)
  }

  /** Ends all of an account that run in this tab; gives their names. */
  private async stopAllHere(of: string): Promise<string[]> {
    const { runs } = useRuns.getState()
    const begun = [...this.running].map(([id, { place }]) => [id, place.of])
    const ids = [...new Set([...begun, ...this.beginning].flatMap(([id, own]) => (own === of ? [id] : [])))]
    await Promise.all(ids.map((id) => this.endHere(id)))
    this.leaveIfIdle(of)
    return ids.map((id) => runs[id]?.plan.name ?? id)
  }

  /** Ends all of the account that the page looks at, in whichever tab of this browser they run; gives their names. */
  async stopAll(): Promise<string[]> {
    const { of } = await this.places.current()
    if (this.lead.leadsFor(of)) return this.stopAllHere(of)
    const { isLed } = await Lead.ledNow()
    return isLed(of) ? ((await this.lead.ask(of, { ask: 'stop all' })) as string[]) : []
  }

  /** The page is being taken down; what runs goes on if it is loaded again. */
  end(): void {
    clearInterval(this.beats)
    window.removeEventListener('beforeunload', this.asksBeforeLeaving)
    this.lead.end()
    void this.thread?.then((thread) => thread.end())
  }

  private forget(id: string): void {
    this.running.delete(id)
    useRuns.setState(({ runs: { [id]: _gone, ...runs } }) => ({ runs }))
  }

  private heard(
    id: string,
    entries: readonly HeardEntry[],
    withHeard: (run: RunHere, one: HeardEntry) => RunHere,
  ): void {
    for (const { entry } of entries) {
      if (entry.is === 'seen')
        db.seen
          .put({ plan: id, key: entry.key, world: this.running.get(id)?.worldId, ...entry.entry })
          .catch((error: unknown) => trouble(sayStorageError(error)))
      if (entry.is === 'idle') void changeBegun(id, { idle: entry.why }).catch(() => undefined)
    }
    changeRun(id, (run) => entries.reduce(withHeard, run))
  }

  /** Answers an order that a plan asks about. */
  answer(id: string, clOrdId: string, yes: boolean): void {
    this.tell(id, { is: 'answer', clOrdId, yes })
  }

  /** Tells every plan something, or one of them only, in whichever tab of this browser it runs. */
  tellAll(told: ToldPlan, only?: string): void {
    this.tellHere(told, only)
    this.tellTabs(told, only).catch((error: unknown) => trouble((error as Error).message))
  }

  private async tellTabs(told: ToldPlan, only?: string): Promise<void> {
    const { isLed } = await Lead.ledNow()
    const rows = (await begunRows()).filter(({ plan }) => only === undefined || plan.id === only)
    for (const of of new Set(rows.map((row) => row.of)))
      if (isLed(of) && !this.lead.leadsFor(of)) await this.lead.ask(of, { ask: 'tell all', told, only })
  }

  private tellHere(told: Told, only?: string): void {
    if (told.is === 'stop') return
    for (const id of this.running.keys()) if (only === undefined || only === id) this.tell(id, told)
  }

  private tell(id: string, told: ToldPlan): void {
    this.inThread((thread) => thread.tell(id, told)).catch((error: unknown) =>
      trouble((error as Error).message),
    )
  }

  /** Gives points for a line of a plan's score card. */
  points(id: string, key: string, line: string, points: number): void {
    this.tell(id, { is: 'points', key, line, points, at: new Date().toISOString() })
  }
}
