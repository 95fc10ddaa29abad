import { type Requests } from './requests'
import { type ScanRequest } from './scan.protocol'

type Ask = Parameters<Requests<ScanRequest>['ask']>[0]

/** One worker of several: what it is asked before it is started waits, and stays in order. */
export class Hand {
  /** Whether it has loaded, so that what it is asked is done at once. */
  isReady = false
  /** Fulfilled when it has loaded; never rejected. */
  readonly whenReady: Promise<void>
  private loaded!: () => void
  private start!: () => void
  private readonly started: Promise<void>
  private isStarted = false
  private failure: unknown

  constructor(private readonly requests: Requests<ScanRequest>) {
    this.whenReady = new Promise((resolve) => (this.loaded = resolve))
    this.started = new Promise((resolve) => (this.start = resolve))
    void this.started.then(() => {
      this.isStarted = true
      void this.requests.ask({ ask: 'ready' }).then(
        () => {
          this.isReady = true
          this.loaded()
        },
        (error: unknown) => (this.failure = error),
      )
    })
  }

  /** Loads it; more than once changes nothing. */
  load(): void {
    this.start()
  }

  /** Throws WorkerFailure. */
  ask<T>(request: Ask): Promise<T> {
    const now = () => this.requests.ask<T>(request)
    return this.isStarted ? now() : this.started.then(now)
  }

  /** Asks what is not waited for; one that it could not do fails whatever it is asked to do next. */
  leave(request: Ask): void {
    this.ask(request).catch((error: unknown) => (this.failure = error))
  }

  /** Throws what it could not do of what was left with it, once. */
  check(): void {
    const { failure } = this
    this.failure = undefined
    if (failure) throw failure as Error
  }

  end(): void {
    this.requests.end()
  }
}
