import { create } from 'zustand'
import { type Broker } from '@/client'
import { type Plan } from '@/core/plans/document'
import { type Run, type RunEntry } from '@/runner/run'
import { type Said } from './planSays'

/** A plan that runs in this page, and what it has said so far. */
export interface RunHere {
  plan: Plan
  acts: boolean
  /** Newest first. */
  said: readonly Said[]
  /** Securities looked at, that met the condition, and orders, since it began. */
  counts: { looked: number; met: number; ordered: number }
}

const MOST_SAID = 300

interface RunsHere {
  runs: Record<string, RunHere>
}

/** What runs in this page, by the id of the plan. */
export const useRuns = create<RunsHere>(() => ({ runs: {} }))

const change = (id: string, into: (run: RunHere) => RunHere) =>
  useRuns.setState(({ runs }) => (runs[id] ? { runs: { ...runs, [id]: into(runs[id]) } } : { runs }))

/** Plans that run in this page. Each is held by a Web Lock, so that no second tab runs the same; all end with the page. */
export class Plans {
  private readonly running = new Map<string, { run: Run; release(): void }>()

  constructor(private readonly broker: Broker) {}

  /** Begins to run a plan; armed it sends, else it watches. Throws Error that says why it does not begin. */
  async start(plan: Plan, acts: boolean): Promise<void> {
    await this.stop(plan.id)
    const release = await this.hold(plan.id)
    try {
      // What runs plans is fetched when the first is begun: no other page waits for it.
      const [{ knownAccount }, { Run }, { saidOf }] = await Promise.all([
        import('@/runner/connect'),
        import('@/runner/run'),
        import('./planSays'),
      ])
      const symbols = [...new Set(plan.sides.flatMap((side) => side.among.list))]
      const known = await knownAccount(this.broker, symbols)
      const met = new Set<string>()
      useRuns.setState(({ runs }) => ({
        runs: {
          ...runs,
          [plan.id]: { plan, acts, said: [], counts: { looked: symbols.length, met: 0, ordered: 0 } },
        },
      }))
      const run = new Run({
        broker: this.broker,
        known,
        plan,
        acts,
        write: (entry, at) => this.heard(plan.id, met, entry, saidOf(entry, at)),
      })
      this.running.set(plan.id, { run, release })
      await run.start()
    } catch (error) {
      release()
      this.forget(plan.id)
      throw error
    }
  }

  /** Ends running a plan. What is held stays, with its exits at the broker. */
  async stop(id: string): Promise<void> {
    const there = this.running.get(id)
    if (!there) return
    await there.run.stop('stopped by hand')
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
    void this.stopAll()
  }

  private forget(id: string): void {
    this.running.delete(id)
    useRuns.setState(({ runs: { [id]: _gone, ...runs } }) => ({ runs }))
  }

  private heard(id: string, met: Set<string>, entry: RunEntry, said: Said | undefined): void {
    if (
      entry.is === 'trace' &&
      entry.trace.findings.some(({ clause, verdict }) => clause === 'If' && verdict === 'holds')
    )
      met.add(entry.trace.symbol)
    change(id, (run) => ({
      ...run,
      said: said ? [said, ...run.said].slice(0, MOST_SAID) : run.said,
      counts: {
        ...run.counts,
        met: met.size,
        ordered: run.counts.ordered + (entry.is === 'intent' && entry.intent.role === 'entry' ? 1 : 0),
      },
    }))
  }

  /** Holds the lock of a plan until the function that is given back is called. Throws Error where another tab holds it. */
  private hold(id: string): Promise<() => void> {
    return new Promise((resolve, reject) => {
      void navigator.locks.request(`heron-plan-${id}`, { ifAvailable: true }, (lock) => {
        if (!lock) {
          reject(new Error('This plan runs in another tab. Stop it there first.'))
          return undefined
        }
        return new Promise<void>((release) => resolve(() => release()))
      })
    })
  }
}
