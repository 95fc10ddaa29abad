import { type BarTable } from '@/core/market/barTable'
import { type Part } from '@/core/rules'
import { Requests } from './requests'
import { type About, type Job, type JobPart, type On, type ScanRequest } from './scan.protocol'

/** Rows of one piece of work: small enough that progress moves and a cancel is soon heard. */
const PIECE = 128

export const CANCELED = 'canceled'

type Hand = Requests<ScanRequest>

const newHand = (): Hand =>
  new Requests<ScanRequest>(
    () => new Worker(new URL('./scan.worker.ts', import.meta.url), { type: 'module' }),
    (reason) => `The scan stopped: ${reason}. Try it again.`,
  )

export interface JobOptions {
  /** Rows of the table; all where left out. */
  rows?: readonly number[]
  /** Told after each piece how many rows are done, of how many. */
  progress?: (done: number, of: number) => void
  signal?: AbortSignal
}

/**
 * Some workers over the same tables. A job is cut into pieces of rows which the workers fetch as they get free;
 * a canceled job stops after the pieces that are under way.
 */
export class ScanPool {
  private readonly hands: Hand[]
  private readonly rowsIn = new Map<string, number>()

  constructor(size = Math.max(1, Math.min(8, globalThis.navigator?.hardwareConcurrency ?? 2))) {
    this.hands = Array.from({ length: size }, newHand)
  }

  get size(): number {
    return this.hands.length
  }

  /** Gives every worker a table under a name, in place of what it had under it. */
  async take(data: string, table: BarTable): Promise<void> {
    this.rowsIn.set(data, table.symbols.length)
    await Promise.all(this.hands.map((hand) => hand.ask({ ask: 'take', data, table })))
  }

  async forget(data: string): Promise<void> {
    this.rowsIn.delete(data)
    await Promise.all(this.hands.map((hand) => hand.ask({ ask: 'forget', data })))
  }

  /** What rules may ask of securities besides their bars. */
  async tell(about: About): Promise<void> {
    await Promise.all(this.hands.map((hand) => hand.ask({ ask: 'about', about })))
  }

  /** Runs a job; `part` is given what each piece found, in the order in which they come. */
  async run<J extends Job>(
    job: J,
    part: (found: JobPart<J>) => void,
    options: JobOptions = {},
  ): Promise<void> {
    const { progress, signal } = options
    const rows = options.rows ?? Array.from({ length: this.rowsIn.get(job.data) ?? 0 }, (_, i) => i)
    let next = 0
    let done = 0
    const serve = async (hand: Hand) => {
      while (next < rows.length) {
        if (signal?.aborted) throw new Error(CANCELED)
        const piece = rows.slice(next, (next += PIECE))
        const found = await hand.ask<JobPart<J>>({ ask: 'work', job, rows: piece as number[] })
        if (signal?.aborted) throw new Error(CANCELED)
        part(found)
        done += piece.length
        progress?.(done, rows.length)
      }
    }
    try {
      await Promise.all(this.hands.map(serve))
    } catch (error) {
      // What failed for one is not begun by the others.
      next = rows.length
      throw error
    }
  }

  explain(about: { rule: string; symbol: string; by?: string } & On): Promise<Part | undefined> {
    return this.hands[0].ask({ ask: 'explain', ...about })
  }
}
