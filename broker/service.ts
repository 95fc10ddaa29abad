/** Why a world cannot be asked, and what to do about it. */
export interface OutOfService {
  /** A sentence. */
  why: string
  mend: string
  /** Seconds after which it is worth asking again; left out where it does not come back by itself. */
  retryAfter?: number
}

/** Thrown where something is asked of a world that is out of service. */
export class NotServed extends Error {
  constructor(readonly out: OutOfService) {
    super(out.why)
    this.name = 'NotServed'
  }
}

/** Whether a world is in service, and what is being done in it. */
export class Service {
  private state: OutOfService | undefined
  private refusal: OutOfService | undefined
  private readonly running = new Set<Promise<unknown>>()

  /** Why it cannot be asked from outside; undefined where it can. */
  get out(): OutOfService | undefined {
    return this.state ?? this.refusal
  }

  /** Refuses whoever asks from outside; the world itself runs on. */
  refuse(out: OutOfService): void {
    this.refusal = out
  }

  /** Throws NotServed while nothing may happen in the world. */
  check(): void {
    if (this.state) throw new NotServed(this.state)
  }

  /** Begins something, unless the world is out of service. */
  begin<T>(something: () => Promise<T>): Promise<T> {
    if (this.state) return Promise.reject(new NotServed(this.state))
    const begun = something()
    this.running.add(begun)
    const ended = () => this.running.delete(begun)
    begun.then(ended, ended)
    return begun
  }

  /** Takes the world out of service; resolves when all that was begun has ended. */
  async stop(out: OutOfService): Promise<void> {
    this.state = out
    while (this.running.size > 0) await Promise.allSettled(this.running)
  }

  resume(): void {
    this.state = undefined
  }
}
