import { type Market } from './market/market'

/** How the market's time runs: `rate` market seconds for each real one. */
export interface ClockState {
  /** Market time, epoch milliseconds, on a whole second. */
  at: number
  rate: number
  running: boolean
}

/**
 * The clock of the stand-in world. Real time comes in from outside, so tests can hold it. While it runs faster
 * than life, closed hours are passed over; at life's pace they last as long as they do.
 */
export class Clock {
  private anchorReal: number

  constructor(
    private state: ClockState,
    private readonly market: Pick<Market, 'nextSession' | 'sessionAt'>,
    private readonly real: () => number,
  ) {
    this.anchorReal = real()
  }

  /** Market time now. */
  now(): number {
    const { at, rate, running } = this.state
    if (!running) return at
    const passed = Math.max(0, this.real() - this.anchorReal) * rate
    return Math.floor((at + passed) / 1000) * 1000
  }

  get rate(): number {
    return this.state.rate
  }

  get running(): boolean {
    return this.state.running
  }

  snapshot(): ClockState {
    return { ...this.state, at: this.now() }
  }

  /** Runs or pauses, and at what pace, from this moment on. */
  set(change: { running?: boolean; rate?: number }): void {
    this.moveTo(this.now())
    this.state = {
      at: this.state.at,
      rate: change.rate ?? this.state.rate,
      running: change.running ?? this.state.running,
    }
  }

  /** Puts the clock forward. Throws RangeError for a moment that has passed: the market cannot unhappen. */
  moveTo(at: number): void {
    if (at < this.now()) throw new RangeError('The clock goes forward only')
    this.state = { ...this.state, at: Math.floor(at / 1000) * 1000 }
    this.anchorReal = this.real()
  }

  /** Where a fast clock skips to when the market is closed: just before the next open. */
  skipsTo(): number | undefined {
    if (!this.state.running || this.state.rate <= 1) return undefined
    const now = this.now()
    if (this.market.sessionAt(now)) return undefined
    const before = this.market.nextSession(now).open - 30_000
    return before > now ? before : undefined
  }
}

/** How long a whole session takes at a rate, and the rate that makes it take so long. Real seconds. */
export const rateForSession = (sessionMs: number, takesSeconds: number): number =>
  sessionMs / 1000 / takesSeconds
