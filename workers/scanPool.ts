import { type BarTable } from '@/core/market/barTable'
import { type Node, type Part } from '@/core/rules'
import { Hand } from './hand'
import { Requests } from './requests'
import { type About, type Job, type JobPart, type On, type ScanRequest } from './scan.protocol'

/** Rows of one piece of work: small enough that progress moves and a cancel is soon heard. */
const PIECE = 128

/** The name of the error with which a job that is called off ends, as of an aborted fetch. */
export const ABORTED = 'AbortError'

const calledOff = () => new DOMException('The job was called off', ABORTED)

const newHand = (): Hand =>
  new Hand(
    new Requests<ScanRequest>(
      () => new Worker(new URL('./scan.worker.ts', import.meta.url), { type: 'module' }),
    ),
  )

export interface JobOptions {
  /** Rows of the set; all where left out. */
  rows?: readonly number[]
  /** Told after each piece how many rows are done, of how many. */
  progress?: (done: number, of: number) => void
  signal?: AbortSignal
}

/**
 * Some workers over the same sets of bars. A job is made ready in each worker once; its rows are cut into pieces which
 * the workers fetch as they get free. One that is called off stops after the pieces that are under way. The first
 * worker is loaded alone, since several that load at once hold each other up, and the others once there is a job; no job
 * waits for them.
 */
export class ScanPool {
  private readonly hands: Hand[]
  private readonly rowsIn = new Map<string, number>()
  private jobs = 0

  constructor(size = Math.max(1, Math.min(8, globalThis.navigator?.hardwareConcurrency ?? 2))) {
    this.hands = Array.from({ length: size }, newHand)
  }

  get size(): number {
    return this.hands.length
  }

  private all(request: Parameters<Hand['ask']>[0]): Promise<unknown> {
    const [first, ...others] = this.hands
    first.load()
    const waitedFor = [first, ...others.filter((hand) => hand.isReady)]
    for (const hand of others) if (!hand.isReady) hand.leave(request)
    return Promise.all(waitedFor.map((hand) => hand.ask(request)))
  }

  /** Gives every worker tables under a name, behind what it has under it. */
  async take(data: string, tables: readonly BarTable[]): Promise<void> {
    const rows = tables.reduce((sum, table) => sum + table.symbols.length, 0)
    this.rowsIn.set(data, (this.rowsIn.get(data) ?? 0) + rows)
    await this.all({ ask: 'take', data, tables })
  }

  async forget(data: string): Promise<void> {
    this.rowsIn.delete(data)
    await this.all({ ask: 'forget', data })
  }

  /** What rules may ask of securities besides their bars. */
  async tell(about: About): Promise<void> {
    await this.all({ ask: 'about', about })
  }

  /**
   * Runs a job; `part` is given what each piece found, in the order in which they come. Throws WorkerFailure, or an
   * AbortError where it is called off.
   */
  async run<J extends Job>(
    job: J,
    part: (found: JobPart<J>) => void,
    options: JobOptions = {},
  ): Promise<void> {
    const { progress, signal } = options
    const rows = options.rows ?? Array.from({ length: this.rowsIn.get(job.data) ?? 0 }, (_, i) => i)
    if (rows.length === 0) return
    const [first, ...others] = this.hands
    first.load()
    void first.whenReady.then(() => others.forEach((hand) => hand.load()))
    const number = ++this.jobs
    let next = 0
    let done = 0
    let allTaken = (): void => undefined
    const whenAllTaken = new Promise<void>((resolve) => (allTaken = resolve))
    const serve = async (hand: Hand, k: number) => {
      if (k > 0 && !hand.isReady) await Promise.race([hand.whenReady, whenAllTaken])
      if (next >= rows.length) return
      hand.check()
      await hand.ask({ ask: 'begin', job: number, what: job })
      try {
        while (next < rows.length) {
          if (signal?.aborted) throw calledOff()
          const piece = rows.slice(next, (next += PIECE))
          if (next >= rows.length) allTaken()
          const found = await hand.ask<JobPart<J>>({ ask: 'piece', job: number, rows: piece })
          if (signal?.aborted) throw calledOff()
          part(found)
          done += piece.length
          progress?.(done, rows.length)
        }
      } finally {
        hand.leave({ ask: 'end', job: number })
      }
    }
    try {
      await Promise.all(this.hands.map(serve))
    } catch (error) {
      // What failed for one is not begun by the others.
      next = rows.length
      allTaken()
      throw error
    }
  }

  explain(about: { rule: Node; symbol: string; by?: string } & On): Promise<Part | undefined> {
    this.warm()
    return this.hands[0].ask({ ask: 'explain', ...about })
  }

  /** Starts the first worker, so that it is ready when the first job comes. */
  warm(): void {
    this.hands[0].load()
  }

  /** Ends the workers; what is still asked for does not come. */
  end(): void {
    for (const hand of this.hands) hand.end()
  }
}
