/** Why a world is out of service, and what to do about it. */
export interface OutOfService {
  /** A sentence. */
  why: string
  mend: string
  /** Seconds after which to ask again; left out if the world does not come back by itself. */
  retryAfter?: number
}

/** Thrown when a world that is out of service is asked for something. */
export class NotServed extends Error {
  constructor(readonly out: OutOfService) {
    super(out.why)
    this.name = 'NotServed'
  }
}

/** Whether a world is in service, and which requests are under way in it. */
export class Service {
  private state: OutOfService | undefined
  private refusal: OutOfService | undefined
  private readonly running = new Set<Promise<unknown>>()

  /** Why requests are refused; undefined if the world is in service. */
  get out(): OutOfService | undefined {
    return this.state ?? this.refusal
  }

  get isStopped(): boolean {
    return this.state !== undefined
  }

  /** Refuses requests; the world itself runs on. */
  refuse(out: OutOfService): void {
    this.refusal = out
  }

  /** Throws NotServed if the world is stopped. */
  check(): void {
    if (this.state) throw new NotServed(this.state)
  }

  /** Runs something, unless the world is stopped. */
  begin<T>(something: () => Promise<T>): Promise<T> {
    if (this.state) return Promise.reject(new NotServed(this.state))
    const begun = something()
    this.running.add(begun)
    const ended = () => this.running.delete(begun)
    begun.then(ended, ended)
    return begun
  }

  /** Stops the world; resolves when everything under way has ended. */
  async stop(out: OutOfService): Promise<void> {
    this.state = out
    while (this.running.size > 0) await Promise.allSettled(this.running)
  }

  resume(): void {
    this.state = undefined
  }
}
