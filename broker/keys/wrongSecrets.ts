/** Wrong secrets of a key that cost nothing yet. */
const FREE = 3
const LONGEST = 60_000

/** Keys of which wrong secrets are remembered; the oldest are forgotten. */
const MOST = 10_000

/**
 * Slows down guessing: after three wrong secrets for a key from one address, that address waits twice as long before each
 * further try, up to a minute. The right secret from another address is accepted at once.
 */
export class WrongSecrets {
  private readonly wrong = new Map<string, { count: number; until: number }>()

  /** `real` is the wall clock in epoch milliseconds. */
  constructor(private readonly real: () => number) {}

  /** Seconds until an address may try a secret of this key again; 0 if it may now. */
  waitFor(keyId: string, remote: string | undefined): number {
    const { until = 0 } = this.wrong.get(nameOf(keyId, remote)) ?? {}
    return Math.max(0, Math.ceil((until - this.real()) / 1000))
  }

  failed(keyId: string, remote: string | undefined): void {
    const name = nameOf(keyId, remote)
    const count = (this.wrong.get(name)?.count ?? 0) + 1
    const wait = count < FREE ? 0 : Math.min(LONGEST, 1000 * 2 ** (count - FREE))
    this.wrong.delete(name)
    this.wrong.set(name, { count, until: this.real() + wait })
    if (this.wrong.size > MOST) this.wrong.delete(this.wrong.keys().next().value!)
  }

  fitted(keyId: string, remote: string | undefined): void {
    this.wrong.delete(nameOf(keyId, remote))
  }
}

/** A request without an address comes from within the process. */
const nameOf = (keyId: string, remote = 'within'): string => `${keyId} ${remote}`
