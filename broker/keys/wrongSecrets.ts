/** Wrong secrets of a key that cost nothing yet. */
const FREE = 3
const LONGEST = 60_000

/** Keys of which wrong secrets are remembered; the oldest are forgotten. */
const MOST = 10_000

/**
 * Slows down whoever tries secrets: after three wrong ones of a key from an address each further one from there must wait
 * twice as long, up to a minute. Whoever has the right secret elsewhere is not kept waiting.
 */
export class WrongSecrets {
  private readonly wrong = new Map<string, { count: number; until: number }>()

  /** `real` is the wall clock in epoch milliseconds. */
  constructor(private readonly real: () => number) {}

  /** Seconds until a secret of this key is looked at again that comes from an address; 0 where it is now. */
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

/** One that came from no address came from within the process. */
const nameOf = (keyId: string, remote = 'within'): string => `${keyId} ${remote}`
