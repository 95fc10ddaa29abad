import { WorkerFailure, type WorkerProblem } from './problems'

/** What every worker answers: to which request, and the value or what is wrong. */
export type Answer<T = unknown> =
  | { id: number; ok: true; value: T }
  | { id: number; ok: false; problem: WorkerProblem }

/** A request before it has its number. */
type Unnumbered<R> = R extends { id: number } ? Omit<R, 'id'> : never

const isAnswer = (data: unknown): data is Answer => typeof data === 'object' && data !== null && 'ok' in data

/** One worker and the requests that it has not answered. It is started with the first of them. */
export class Requests<R extends { id: number }, Message = never> {
  private worker: Worker | undefined
  private last = 0
  private readonly waiting = new Map<
    number,
    { done: (value: never) => void; failed: (error: Error) => void }
  >()

  /** `start` makes the worker; `heard` is told what it says by itself, `broke` why it works no more. */
  constructor(
    private readonly start: () => Worker,
    private readonly heard: (message: Message) => void = () => undefined,
    private readonly broke: (reason: string) => void = () => undefined,
  ) {}

  /** Throws WorkerFailure with what the worker says is wrong. */
  ask<T>(request: Unnumbered<R>): Promise<T> {
    const id = ++this.last
    return new Promise<T>((done, failed) => {
      this.waiting.set(id, { done: done as (value: never) => void, failed })
      this.started().postMessage({ ...request, id })
    })
  }

  /** Ends the worker; what is still asked for does not come. */
  end(): void {
    this.worker?.terminate()
  }

  private started(): Worker {
    if (this.worker) return this.worker
    const worker = this.start()
    worker.onmessage = ({ data }: MessageEvent<Answer | Message>) => {
      if (!isAnswer(data)) return this.heard(data)
      const waiting = this.waiting.get(data.id)
      this.waiting.delete(data.id)
      if (data.ok) waiting?.done(data.value as never)
      else waiting?.failed(new WorkerFailure(data.problem))
    }
    worker.onerror = (event) => {
      const reason = event.message || 'its worker could not be loaded'
      for (const { failed } of this.waiting.values()) failed(new WorkerFailure({ code: 'broken', reason }))
      this.waiting.clear()
      this.broke(reason)
    }
    return (this.worker = worker)
  }
}
