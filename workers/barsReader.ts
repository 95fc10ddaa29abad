import { type ReadFile } from '@/core/formats/barFiles'
import { type ColumnMap } from '@/core/formats/barsCsv'
import { type BarsAnswer, type BarsRequest, type Opened, type ReadBarFiles } from './bars.protocol'

type Unnumbered = BarsRequest extends infer R ? (R extends { id: number } ? Omit<R, 'id'> : never) : never

/** Files of bars that lie open in a worker, to be read as often as the choice of columns changes. */
export class BarsReader {
  private readonly worker = new Worker(new URL('./bars.worker.ts', import.meta.url), { type: 'module' })
  private last = 0
  private readonly waiting = new Map<
    number,
    { done: (value: never) => void; failed: (error: Error) => void }
  >()

  constructor() {
    this.worker.onmessage = ({ data }: MessageEvent<BarsAnswer>) => {
      const waiting = this.waiting.get(data.id)
      this.waiting.delete(data.id)
      if (data.ok) waiting?.done(data.value as never)
      else waiting?.failed(new Error(data.problem))
    }
    this.worker.onerror = (event) => {
      for (const { failed } of this.waiting.values())
        failed(
          new Error(
            `The files could not be read: ${event.message || 'the worker ended'}. Try fewer at once.`,
          ),
        )
      this.waiting.clear()
    }
  }

  private ask<T>(request: Unnumbered): Promise<T> {
    const id = ++this.last
    return new Promise<T>((done, failed) => {
      this.waiting.set(id, { done: done as (value: never) => void, failed })
      this.worker.postMessage({ ...request, id })
    })
  }

  open = (files: (File | ReadFile)[], rowLimit: number) => this.ask<Opened>({ ask: 'open', files, rowLimit })

  read = (map: ColumnMap, zone: string) => this.ask<ReadBarFiles>({ ask: 'read', map, zone })

  /** Lets go of the files; what is still asked for does not come. */
  close(): void {
    this.worker.terminate()
  }
}
