/** Wrong secrets of a key that cost nothing yet. */
const FREE = 3
const LONGEST = 60_000

/** Keys of which wrong secrets are remembered; the oldest are forgotten. */
const MOST = 10_000

/** Slows down whoever tries secrets: after three wrong ones each further one must wait twice as long, up to a minute. */
export class WrongSecrets {
  private readonly wrong = new Map<string, { count: number; until: number }>()

  /** `real` is the wall clock in epoch milliseconds. */
  constructor(private readonly real: () => number) {}

  /** Seconds until a secret of this key is looked at again; 0 where it is now. */
  waitFor(keyId: string): number {
    const { until = 0 } = this.wrong.get(keyId) ?? {}
    return Math.max(0, Math.ceil((until - this.real()) / 1000))
  }

  failed(keyId: string): void {
    const count = (this.wrong.get(keyId)?.count ?? 0) + 1
    const wait = count < FREE ? 0 : Math.min(LONGEST, 1000 * 2 ** (count - FREE))
    this.wrong.delete(keyId)
    this.wrong.set(keyId, { count, until: this.real() + wait })
    if (this.wrong.size > MOST) this.wrong.delete(this.wrong.keys().next().value!)
  }

  fitted(keyId: string): void {
    this.wrong.delete(keyId)
  }
}
