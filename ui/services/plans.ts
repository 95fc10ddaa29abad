import { create } from 'zustand'
import { type Broker } from '@/client'
import { type Plan } from '@/core/plans/document'
import { type Told } from '@/runner/told'
import { dayView } from '@/store/dayView'
import { db, sayStorageError } from '@/store/db'
import { seenBook, sinceFor } from '@/store/plans'
import { type PlanThread } from '@/workers/planThread'
import { type HeardEntry, type PlansWhere } from '@/workers/plans.protocol'
import { sayFailure } from '@/workers/say'
import { begunRow, begunRows, forgetBegun, noteBegun } from './begun'
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

const lockOf = (id: string): string => `heron-plan-${id}`

/**
 * Plans that run in this page. Each is held by a Web Lock, so that no second tab runs the same; another tab that is open takes
 * over what runs in one that closes. With the last tab all of them end, and do not begin again by themselves.
 */
export class Plans {
  /** What gives the lock of each back. */
  private readonly running = new Map<string, () => void>()
  private readonly waiting = new Set<string>()
  private ended = new AbortController()
  private channel: BroadcastChannel | undefined
  private thread: Promise<PlanThread> | undefined

  constructor(
    private readonly broker: Broker,
    /** Environment and account, as one word. */
    private readonly of: () => string,
  ) {}

  start(): void {
    this.ended = new AbortController()
    this.watchOthers().then(
      (ended) => ended.length > 0 && useRuns.setState({ ended }),
      (error: unknown) => useRuns.setState({ trouble: (error as Error).message }),
    )
  }

  /** Waits to take over what other tabs run; what was left by tabs that are gone is forgotten, and its names are given. */
  private async watchOthers(): Promise<string[]> {
    this.channel = new BroadcastChannel('heron-plans')
    this.channel.addEventListener('message', ({ data }) => this.waitFor(String(data)))
    const { held = [] } = await navigator.locks.query()
    const gone: string[] = []
    for (const { plan } of await begunRows()) {
      if (held.some(({ name }) => name === lockOf(plan.id))) this.waitFor(plan.id)
      else if (!this.running.has(plan.id)) {
        await forgetBegun(plan.id)
        gone.push(plan.name)
      }
    }
    return gone
  }

  /** Begins to run a plan; armed it sends, else it watches. Throws Error that says why it does not begin. */
  async run(plan: Plan, acts: boolean, atOnce = false): Promise<void> {
    await this.stop(plan.id)
    await this.begin(plan, acts, atOnce, await this.hold(plan.id))
    await noteBegun({ plan, acts, of: this.of() })
    this.channel?.postMessage(plan.id)
  }

  /** Takes a plan over once the tab that runs it is gone; where it was stopped there, nothing is left to take over. */
  private waitFor(id: string): void {
    if (this.waiting.has(id) || this.running.has(id)) return
    this.waiting.add(id)
    const takeOver = async () => {
      this.waiting.delete(id)
      const row = await begunRow(id)
      if (!row || row.of !== this.of() || this.running.has(id)) return
      await new Promise<void>((release) => {
        this.begin(row.plan, row.acts, false, release).catch((error: unknown) => {
          useRuns.setState({
            trouble: `${row.plan.name} could not be taken over: ${(error as Error).message}`,
          })
        })
      })
    }
    navigator.locks
      .request(lockOf(id), { signal: this.ended.signal }, takeOver)
      .catch(() => this.waiting.delete(id))
  }

  private async begin(plan: Plan, acts: boolean, atOnce: boolean, release: () => void): Promise<void> {
    try {
      const { at, date } = await this.inThread((thread) => thread.account(this.where()))
      useRuns.setState(({ runs }) => ({
        runs: { ...runs, [plan.id]: { plan, acts, said: [], funnel: {}, asks: [], waits: [] } },
      }))
      this.running.set(plan.id, release)
      const [seen, view, since] = await Promise.all([
        seenBook(plan.id),
        dayView(date),
        acts ? sinceFor(plan.id, at) : at,
      ])
      await this.inThread((thread) => thread.begin({ plan, acts, atOnce, seen, view, since }))
    } catch (error) {
      release()
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
    const names = [...this.running.keys()].map((id) => runs[id]?.plan.name ?? id)
    this.thread = undefined
    for (const [id, release] of this.running) {
      release()
      this.forget(id)
      void forgetBegun(id)
    }
    if (names.length > 0)
      useRuns.setState({
        trouble: `What runs plans in this page has stopped (${reason}): ${names.join(', ')} run no more. Arm them again.`,
      })
  }

  /** Ends running a plan. What is held stays, with its exits at the broker. */
  async stop(id: string): Promise<void> {
    const release = this.running.get(id)
    if (!release) return
    await this.inThread((thread) => thread.stop(id, 'stopped by hand'))
    // Before the lock is given back: nobody is to take it over.
    await forgetBegun(id)
    release()
    this.forget(id)
  }

  /** Ends all of them; gives their names. */
  async stopAll(): Promise<string[]> {
    const { runs } = useRuns.getState()
    const ids = [...this.running.keys()]
    await Promise.all(ids.map((id) => this.stop(id)))
    return ids.map((id) => runs[id]?.plan.name ?? id)
  }

  end(): void {
    this.ended.abort()
    this.channel?.close()
    void this.stopAll().then(async () => (await this.thread)?.end())
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
    for (const { entry } of entries)
      if (entry.is === 'seen')
        db.seen
          .put({ plan: id, key: entry.key, ...entry.entry })
          .catch((error: unknown) => useRuns.setState({ trouble: sayStorageError(error) }))
    change(id, (run) => entries.reduce(withHeard, run))
  }

  /** Answers an order that a plan asks about. */
  answer(id: string, clOrdId: string, yes: boolean): void {
    this.tell(id, { is: 'answer', clOrdId, yes })
  }

  /** Tells every plan that runs here something. */
  tellAll(told: Told): void {
    for (const id of this.running.keys()) this.tell(id, told)
  }

  private tell(id: string, told: Told): void {
    this.inThread((thread) => thread.tell(id, told)).catch((error: unknown) =>
      useRuns.setState({ trouble: (error as Error).message }),
    )
  }

  /** Gives points for a line of a plan's score card. */
  points(id: string, key: string, line: string, points: number): void {
    this.tell(id, { is: 'points', key, line, points, at: new Date().toISOString() })
  }

  /** Holds the lock of a plan until the function that is given back is called. Throws Error where another tab holds it. */
  private hold(id: string): Promise<() => void> {
    return new Promise((resolve, reject) => {
      void navigator.locks.request(lockOf(id), { ifAvailable: true }, (lock) => {
        if (!lock) {
          reject(new Error('This plan runs in another tab. Stop it there first.'))
          return undefined
        }
        return new Promise<void>((release) => resolve(() => release()))
      })
    })
  }
}
