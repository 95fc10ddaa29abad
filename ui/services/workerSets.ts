import { type BarTable } from '@/core/market/barTable'
import { type ScanPool } from '@/workers/scanPool'
import { type FrameBars } from './bars'

/** Bars that the workers hold, which do not change their rows: what comes in their place is another set. */
export interface WorkerSet {
  /** Name under which the workers know it. */
  data: string
  bars: FrameBars | undefined
  version: string
  /** The row of each symbol. */
  rowOf: Map<string, number>
  /** How many look at it; once it is replaced and nobody does, the workers forget it. */
  users: number
  replaced: boolean
}

/** Numbers sets, so that none has the name of another. */
let made = 0

/** The sets that the workers hold, by what they are sets of. Whoever is given one leaves it when done with it. */
export class WorkerSets {
  private readonly standing = new Map<string, WorkerSet>()
  /** Those who ask for the same are served one after the other, so that each set is given once. */
  private readonly queues = new Map<string, Promise<unknown>>()

  constructor(private readonly pool: ScanPool) {}

  /** Does what brings a set of a name once whoever asked for it before has been served. */
  inTurn(name: string, work: () => Promise<WorkerSet>): Promise<WorkerSet> {
    const mine = (this.queues.get(name) ?? Promise.resolve()).then(work)
    this.queues.set(
      name,
      mine.catch(() => undefined),
    )
    return mine
  }

  /** The set that stands under a name. */
  at(name: string): WorkerSet | undefined {
    return this.standing.get(name)
  }

  /** A set without rows, which nobody is given before it stands. */
  fresh(name: string): WorkerSet {
    const data = `${name} #${++made}`
    return { data, bars: undefined, version: '', rowOf: new Map(), users: 0, replaced: false }
  }

  /** Gives the workers tables of a set, behind those they have of it. */
  take({ data, rowOf }: WorkerSet, tables: readonly BarTable[]): Promise<void> {
    for (const { symbols } of tables) for (const symbol of symbols) rowOf.set(symbol, rowOf.size)
    return this.pool.take(data, tables)
  }

  /** Puts a set in the place of the one before, which goes once nobody looks at it. */
  stand(name: string, set: WorkerSet, bars: FrameBars | undefined, version: string): WorkerSet {
    const before = this.standing.get(name)
    if (before) this.drop(before)
    this.standing.set(name, Object.assign(set, { bars, version }))
    return this.use(set)
  }

  use(set: WorkerSet): WorkerSet {
    set.users++
    return set
  }

  leave(set: WorkerSet): void {
    set.users--
    if (set.replaced && set.users === 0) this.forget(set)
  }

  /** Nobody is given this one any more. */
  drop(set: WorkerSet): void {
    if (set.replaced) return
    set.replaced = true
    if (set.users === 0) this.forget(set)
  }

  private forget({ data, rowOf }: WorkerSet): void {
    if (rowOf.size > 0) void this.pool.forget(data).catch(() => undefined)
  }
}
