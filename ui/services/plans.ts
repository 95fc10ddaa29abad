import * as z from 'zod'
import { create } from 'zustand'
import { type Broker } from '@/client'
import { Plan } from '@/core/plans/document'
import { Told, type ToldPlan } from '@/runner/told'
import { dayView } from '@/store/dayView'
import { db, sayStorageError } from '@/store/db'
import { seenBook, sinceFor } from '@/store/plans'
import { type PlanThread } from '@/workers/planThread'
import { type HeardEntry, type PlansWhere } from '@/workers/plans.protocol'
import { sayFailure } from '@/workers/say'
import { begunRow, begunRows, forgetBegun, noteBegun } from './begun'
import { Lead } from './lead'
import { type RunHere } from './runHere'

interface RunsHere {
  runs: Record<string, RunHere>
  /** Something that went wrong while nobody looked; names of plans that ended with the tab that they ran in. */
  trouble?: string
  ended?: readonly string[]
}

/** What runs in this page, by the id of the plan. */
export const useRuns = create<RunsHere>(() => ({ runs: {} }))

const change = (id: string, into: (run: RunHere) => RunHere) =>
  useRuns.setState(({ runs }) => (runs[id] ? { runs: { ...runs, [id]: into(runs[id]) } } : { runs }))

/** What another tab may ask of the one that runs plans. */
const Asked = z.discriminatedUnion('ask', [
  z.object({ ask: z.literal('run'), plan: Plan, acts: z.boolean(), atOnce: z.boolean() }),
  z.object({ ask: z.literal('stop'), id: z.string() }),
  z.object({ ask: z.literal('stop all') }),
  z.object({ ask: z.literal('tell all'), told: Told, only: z.string().optional() }),
])

/**
 * Plans that run in this browser. One tab runs those of an account, so that what one of them wants is kept back before the next is
 * asked; others ask it. Another tab that is open takes over what runs in one that closes. With the last tab all of them end, and do
 * not begin again by themselves.
 */
export class Plans {
  private readonly running = new Set<string>()
  /** World that each runs in: what it has seen is of that. */
  private readonly worlds = new Map<string, string>()
  private readonly lead: Lead
  private thread: Promise<PlanThread> | undefined

  constructor(
    private readonly broker: Broker,
    /** Environment and account, as one word. */
    private readonly of: () => string,
  ) {
    this.lead = new Lead(
      of,
      (asking) => this.asked(Asked.parse(asking)),
      () => this.takeOver(),
    )
  }

  start(): void {
    this.lead.start()
    this.watchOthers().then(
      (ended) => ended.length > 0 && useRuns.setState({ ended }),
      (error: unknown) => useRuns.setState({ trouble: (error as Error).message }),
    )
  }

  /** Waits to take over what another tab runs; what was left by tabs that are gone is forgotten, and its names are given. */
  private async watchOthers(): Promise<string[]> {
    const isLed = await Lead.ledNow()
    const gone: string[] = []
    for (const { plan, of } of await begunRows()) {
      if (isLed(of)) this.lead.wait(of)
      else if (!this.running.has(plan.id)) {
        await forgetBegun(plan.id)
        gone.push(plan.name)
      }
    }
    return gone
  }

  /**
   * Begins to run a plan, here or in the tab that runs the others of the account; armed it sends, else it watches. One that runs is
   * ended first. Throws Error that says why it does not begin.
   */
  async run(plan: Plan, acts: boolean, atOnce = false): Promise<void> {
    if (await this.lead.lead()) return this.runHere(plan, acts, atOnce)
    await this.lead.ask({ ask: 'run', plan, acts, atOnce })
    this.lead.wait()
  }

  private async runHere(plan: Plan, acts: boolean, atOnce: boolean): Promise<void> {
    await this.endHere(plan.id)
    await this.begin(plan, acts, { atOnce })
    await noteBegun({ plan, acts, of: this.of() })
    this.lead.tellBegun()
  }

  private async asked(asked: z.infer<typeof Asked>): Promise<unknown> {
    switch (asked.ask) {
      case 'run':
        return this.runHere(asked.plan, asked.acts, asked.atOnce)
      case 'stop':
        return this.stopHere(asked.id)
      case 'stop all':
        return this.stopAllHere()
      case 'tell all':
        return this.tellHere(asked.told, asked.only)
    }
  }

  /** Goes on with what ran in a tab that is gone; where it was stopped there, nothing is left to take over. */
  private async takeOver(): Promise<void> {
    for (const { plan, acts, of } of await begunRows()) {
      if (of !== this.of() || this.running.has(plan.id)) continue
      await this.begin(plan, acts, { goesOn: true }).catch((error: unknown) => {
        useRuns.setState({ trouble: `${plan.name} could not be taken over: ${(error as Error).message}` })
      })
    }
    this.leaveWhereIdle()
  }

  /** Leads no more where nothing runs here. */
  private leaveWhereIdle(): void {
    if (this.running.size === 0) this.lead.leave()
  }

  private async begin(
    plan: Plan,
    acts: boolean,
    { atOnce = false, goesOn = false }: { atOnce?: boolean; goesOn?: boolean },
  ): Promise<void> {
    try {
      const { at, date, worldId } = await this.inThread((thread) => thread.account(this.where()))
      useRuns.setState(({ runs }) => ({
        runs: { ...runs, [plan.id]: { plan, acts, said: [], funnel: {}, looks: [], asks: [], waits: [] } },
      }))
      this.running.add(plan.id)
      this.worlds.set(plan.id, worldId)
      const [seen, view, since] = await Promise.all([
        seenBook(plan.id, worldId),
        dayView(date),
        acts ? sinceFor(plan.id, at, worldId) : at,
      ])
      await this.inThread((thread) => thread.begin({ plan, acts, atOnce, goesOn, seen, view, since }))
    } catch (error) {
      this.forget(plan.id)
      throw error
    }
  }

  /** Asks the worker that runs plans. Throws Error with what is wrong, in words. */
  private async inThread<T>(ask: (thread: PlanThread) => Promise<T>): Promise<T> {
    // What runs plans is fetched when the first is begun: no other page waits for it.
    this.thread ??= Promise.all([import('@/workers/planThread'), import('./runHere')]).then(
      ([{ PlanThread: Thread }, { withHeard }]) =>
        new Thread(
          () => this.broker.access.source,
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

  private where(): PlansWhere {
    const { access, account } = this.broker
    return { brokerUrl: access.brokerUrl, world: access.world, account }
  }

  /** The worker is gone, and with it all that ran in it. What is held stays, with its exits at the broker. */
  private broke(reason: string): void {
    const { runs } = useRuns.getState()
    const names = [...this.running].map((id) => runs[id]?.plan.name ?? id)
    this.thread = undefined
    for (const id of this.running) {
      this.forget(id)
      void forgetBegun(id)
    }
    if (names.length > 0)
      useRuns.setState({
        trouble: `What runs plans in this page has stopped (${reason}): ${names.join(', ')} run no more. Arm them again.`,
      })
  }

  /** Ends running a plan, here or in the tab that runs it. What is held stays, with its exits at the broker. */
  async stop(id: string): Promise<void> {
    if (this.running.has(id)) await this.stopHere(id)
    else if (await begunRow(id)) await this.lead.ask({ ask: 'stop', id })
  }

  private async stopHere(id: string): Promise<void> {
    await this.endHere(id)
    this.leaveWhereIdle()
  }

  private async endHere(id: string): Promise<void> {
    if (!this.running.has(id)) return
    await this.inThread((thread) => thread.stop(id, 'stopped by hand'))
    // Before the lock is given back: nobody is to take it over.
    await forgetBegun(id)
    this.forget(id)
  }

  /** Ends all that run in this page; gives their names. */
  async stopAllHere(): Promise<string[]> {
    const { runs } = useRuns.getState()
    const ids = [...this.running]
    await Promise.all(ids.map((id) => this.endHere(id)))
    this.leaveWhereIdle()
    return ids.map((id) => runs[id]?.plan.name ?? id)
  }

  /** Ends all of the account, in whichever tab of this browser they run; gives their names. */
  async stopAll(): Promise<string[]> {
    const here = await this.stopAllHere()
    const elsewhere = (await begunRows()).some(({ of }) => of === this.of())
    return elsewhere ? [...here, ...((await this.lead.ask({ ask: 'stop all' })) as string[])] : here
  }

  end(): void {
    this.lead.end()
    void this.stopAllHere().then(async () => (await this.thread)?.end())
  }

  private forget(id: string): void {
    this.running.delete(id)
    this.worlds.delete(id)
    useRuns.setState(({ runs: { [id]: _gone, ...runs } }) => ({ runs }))
  }

  private heard(
    id: string,
    entries: readonly HeardEntry[],
    withHeard: (run: RunHere, one: HeardEntry) => RunHere,
  ): void {
    for (const { entry } of entries)
      if (entry.is === 'seen')
        db.seen
          .put({ plan: id, key: entry.key, world: this.worlds.get(id), ...entry.entry })
          .catch((error: unknown) => useRuns.setState({ trouble: sayStorageError(error) }))
    change(id, (run) => entries.reduce(withHeard, run))
  }

  /** Answers an order that a plan asks about. */
  answer(id: string, clOrdId: string, yes: boolean): void {
    this.tell(id, { is: 'answer', clOrdId, yes })
  }

  /** Tells every plan of the account something, or one of them only, in whichever tab it runs. */
  tellAll(told: ToldPlan, only?: string): void {
    this.tellHere(told, only)
    if (this.running.size > 0) return
    begunRows()
      .then(
        (rows) => rows.some(({ of }) => of === this.of()) && this.lead.ask({ ask: 'tell all', told, only }),
      )
      .catch((error: unknown) => useRuns.setState({ trouble: (error as Error).message }))
  }

  private tellHere(told: Told, only?: string): void {
    if (told.is === 'stop') return
    for (const id of this.running) if (only === undefined || only === id) this.tell(id, told)
  }

  private tell(id: string, told: ToldPlan): void {
    this.inThread((thread) => thread.tell(id, told)).catch((error: unknown) =>
      useRuns.setState({ trouble: (error as Error).message }),
    )
  }

  /** Gives points for a line of a plan's score card. */
  points(id: string, key: string, line: string, points: number): void {
    this.tell(id, { is: 'points', key, line, points, at: new Date().toISOString() })
  }
}
