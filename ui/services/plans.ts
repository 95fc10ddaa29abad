import { create } from 'zustand'
import { type Broker } from '@/client'
import { localDate } from '@/core/market/venue'
import { type Funnel, withTrace } from '@/core/engine/funnel'
import { type Trace } from '@/core/engine/verdicts'
import { type Plan } from '@/core/plans/document'
import { namedBy } from '@/core/plans/drawn'
import { type RunEntry } from '@/runner/entries'
import { type Hub } from '@/runner/hub'
import { type Run } from '@/runner/run'
import { type Told } from '@/runner/told'
import { dayView } from '@/store/dayView'
import { db } from '@/store/db'
import { seenBook, sinceFor } from '@/store/plans'
import { begunRow, begunRows, forgetBegun, noteBegun } from './begun'
import { type Said } from './planSays'

/** A plan that runs in this page, and what it has said so far. */
export interface RunHere {
  plan: Plan
  acts: boolean
  /** Newest first. */
  said: readonly Said[]
  /** How far each security came since it began. */
  funnel: Funnel
  /** Orders that wait for the trader's answer, and events that wait for points of the trader. */
  asks: readonly Asked[]
  waits: readonly Waiting[]
}

export interface Asked {
  clOrdId: string
  text: string
  /** Market time, epoch milliseconds. */
  until: number
}

export interface Waiting {
  key: string
  symbol: string
  /** Lines that are not known. */
  lines: readonly string[]
}

const MOST_SAID = 300

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
  private readonly running = new Map<string, { run: Run; release(): void }>()
  private readonly waiting = new Set<string>()
  private ended = new AbortController()
  private channel: BroadcastChannel | undefined
  private hub: Promise<Hub> | undefined

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
      // What runs plans is fetched when the first is begun: no other page waits for it.
      const [{ Run }, { saidOf }] = await Promise.all([import('@/runner/run'), import('./planSays')])
      const hub = await this.account(plan)
      useRuns.setState(({ runs }) => ({
        runs: { ...runs, [plan.id]: { plan, acts, said: [], funnel: {}, asks: [], waits: [] } },
      }))
      const run = new Run({
        hub,
        plan,
        acts,
        atOnce,
        seen: await seenBook(plan.id),
        view: await dayView(localDate(hub.known.shared.home, hub.at)),
        since: acts ? await sinceFor(plan.id, hub.at) : hub.at,
        write: (entry, at) => this.heard(plan.id, entry, saidOf(entry, at)),
      })
      this.running.set(plan.id, { run, release })
      await run.start()
    } catch (error) {
      release()
      this.forget(plan.id)
      throw error
    }
  }

  /** The account that all plans of this page share; put together when the first of them is begun. */
  private async account(plan: Plan): Promise<Hub> {
    const [{ knownAccount }, { Hub: Made }] = await Promise.all([
      import('@/runner/connect'),
      import('@/runner/hub'),
    ])
    const there = await this.hub?.catch(() => undefined)
    if (there && !there.isEmpty) {
      const missing = namedBy(plan).filter((symbol) => !there.known.shared.listed[symbol])
      if (missing.length === 0) return there
    }
    this.hub = knownAccount(this.broker, namedBy(plan)).then((known) => new Made(this.broker, known))
    return this.hub
  }

  /** Ends running a plan. What is held stays, with its exits at the broker. */
  async stop(id: string): Promise<void> {
    const there = this.running.get(id)
    if (!there) return
    await there.run.stop('stopped by hand')
    // Before the lock is given back: nobody is to take it over.
    await forgetBegun(id)
    there.release()
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
    void this.stopAll()
  }

  private forget(id: string): void {
    this.running.delete(id)
    useRuns.setState(({ runs: { [id]: _gone, ...runs } }) => ({ runs }))
  }

  private heard(id: string, entry: RunEntry, said: Said | undefined): void {
    if (entry.is === 'seen') void db.seen.put({ plan: id, key: entry.key, ...entry.entry })
    change(id, (run) => ({
      ...run,
      said: said ? [said, ...run.said].slice(0, MOST_SAID) : run.said,
      funnel: entry.is === 'trace' ? withTrace(run.funnel, entry.trace) : run.funnel,
      asks: asksAfter(run.asks, entry),
      waits: entry.is === 'trace' ? waitsAfter(run.waits, entry.trace) : run.waits,
    }))
  }

  /** Answers an order that a plan asks about. */
  answer(id: string, clOrdId: string, yes: boolean): void {
    this.running.get(id)?.run.tell({ is: 'answer', clOrdId, yes })
  }

  /** Tells every plan that runs here something. */
  tellAll(told: Told): void {
    for (const { run } of this.running.values()) run.tell(told)
  }

  /** Gives points for a line of a plan's score card. */
  points(id: string, key: string, line: string, points: number): void {
    this.running.get(id)?.run.tell({ is: 'points', key, line, points, at: new Date().toISOString() })
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

function asksAfter(asks: readonly Asked[], entry: RunEntry): readonly Asked[] {
  if (entry.is === 'intent' && entry.intent.is === 'ask') {
    const { order, until } = entry.intent
    const text = `${order.side} ${order.orderQty} ${order.symbol}`
    return [...asks, { clOrdId: order.clOrdId, text, until }]
  }
  if (entry.is !== 'note' || entry.note.why === 'let go') return asks
  const { clOrdId } = entry.note
  return asks.filter((one) => one.clOrdId !== clOrdId)
}

function waitsAfter(waits: readonly Waiting[], { event, symbol, findings }: Trace): readonly Waiting[] {
  if (event === undefined) return waits
  const others = waits.filter(({ key }) => key !== event)
  const score = findings.find((one) => one.clause === 'Provided' && one.why === 'score')
  if (score?.clause !== 'Provided' || score.why !== 'score' || score.verdict !== 'unknown') return others
  const lines = score.lines.flatMap(({ name, points }) => (points === undefined ? [name] : []))
  return [...others, { key: event, symbol, lines }]
}
