import { type Part } from '@/core/rules'
import { type Breadth } from '@/core/scan/breadth'
import { type ScanResult } from '@/core/scan/scan'
import { type Loaded, type ScanAnswer, type ScanRequest } from './scan.protocol'

type Unnumbered = ScanRequest extends infer R ? (R extends { id: number } ? Omit<R, 'id'> : never) : never

type Waiting = {
  done: (value: never) => void
  failed: (error: Error) => void
  progress?: (done: number, of: number) => void
}

/** Talks to the scan worker; each request gets its own answer. */
export class ScanClient {
  private worker: Worker | undefined
  private last = 0
  private readonly waiting = new Map<number, Waiting>()

  private start(): Worker {
    if (this.worker) return this.worker
    const worker = new Worker(new URL('./scan.worker.ts', import.meta.url), { type: 'module' })
    worker.onmessage = (event: MessageEvent<ScanAnswer>) => this.take(event.data)
    worker.onerror = (event) =>
      this.end(
        new Error(`The scan stopped: ${event.message || 'its worker could not be loaded'}. Try it again.`),
      )
    return (this.worker = worker)
  }

  private take(answer: ScanAnswer): void {
    const waiting = this.waiting.get(answer.id)
    if (!waiting) return
    if (answer.ok && answer.answer === 'progress') {
      waiting.progress?.(answer.done, answer.of)
      return
    }
    this.waiting.delete(answer.id)
    if (answer.ok) waiting.done(answer.value as never)
    else waiting.failed(new Error(answer.problem))
  }

  private ask<T>(
    request: Unnumbered,
    transfer: Transferable[] = [],
    progress?: Waiting['progress'],
  ): Promise<T> {
    const id = ++this.last
    return new Promise<T>((done, failed) => {
      this.waiting.set(id, { done: done as Waiting['done'], failed, progress })
      this.start().postMessage({ ...request, id }, transfer)
    })
  }

  /** Takes bars in the FHB1 form; the buffer is gone for the caller. */
  load = (data: string, buffer: ArrayBuffer): Promise<Loaded> =>
    this.ask({ ask: 'load', data, buffer }, [buffer])

  loadOwn = (data: string, set: Extract<ScanRequest, { ask: 'loadOwn' }>['set']): Promise<Loaded> =>
    this.ask({ ask: 'loadOwn', data, set })

  scan = (
    about: Omit<Extract<ScanRequest, { ask: 'scan' }>, 'id' | 'ask'>,
    progress?: Waiting['progress'],
  ): Promise<ScanResult> => this.ask({ ask: 'scan', ...about }, [], progress)

  breadth = (data: string, among?: string[]): Promise<Breadth> => this.ask({ ask: 'breadth', data, among })

  explain = (
    about: Omit<Extract<ScanRequest, { ask: 'explain' }>, 'id' | 'ask'>,
  ): Promise<Part | undefined> => this.ask({ ask: 'explain', ...about })

  /** Stops whatever runs; its promises are rejected with `reason`. Data sets must be loaded again. */
  end(reason: Error): void {
    this.worker?.terminate()
    this.worker = undefined
    for (const { failed } of this.waiting.values()) failed(reason)
    this.waiting.clear()
  }
}
