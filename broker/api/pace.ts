/** How fast one key may ask: so many requests a second in the long run, and some at once. */
interface Terms {
  perSecond: number
  atOnce: number
}

/** What is left for a key, and when there is all of it again, in seconds. */
export interface Left {
  limit: number
  remaining: number
  reset: number
}

/** Counts the requests of each key: what is allowed at once fills again with time (a token bucket). */
export class Pace {
  private readonly keys = new Map<string, { left: number; at: number }>()

  constructor(
    private readonly terms: Terms,
    private readonly now: () => number = () => performance.now(),
  ) {}

  /** Counts so many more of a key: they are let pass, and it waits the longer afterwards. */
  owe(keyId: string, many: number): void {
    const known = this.keys.get(keyId)
    if (known) known.left -= many
  }

  /** Takes one request of a key; `wait` says for how many seconds it must wait where there is none left. */
  take(keyId: string): Left & { wait: number } {
    const { perSecond, atOnce } = this.terms
    const at = this.now()
    const before = this.keys.get(keyId) ?? { left: atOnce, at }
    const left = Math.min(atOnce, before.left + ((at - before.at) / 1000) * perSecond)
    const allowed = left >= 1
    const now = { left: allowed ? left - 1 : left, at }
    this.keys.set(keyId, now)
    return {
      limit: atOnce,
      remaining: Math.max(0, Math.floor(now.left)),
      reset: Math.ceil((atOnce - now.left) / perSecond),
      wait: allowed ? 0 : Math.max(1, Math.ceil((1 - left) / perSecond)),
    }
  }
}
