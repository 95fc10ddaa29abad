import { type Session } from '@/core/market/venue'

/** How the market's time runs: `rate` market seconds for each real one. */
export interface ClockState {
  /** Market time, epoch milliseconds, on a whole second. */
  at: number
  rate: number
  running: boolean
  /** How far it may have been told: after a crash it goes on from here. Left out where it is `at`. */
  until?: number
}

/** What a clock asks of the calendars that it runs by. */
export interface Calendar {
  /** The session of any venue that is under way. */
  sessionAt(moment: number): Session | undefined
  /** The session of any venue that opens next, or is under way. */
  nextSession(moment: number): Session
}

/** How long a clock that runs is written down ahead, in real milliseconds; and when there is so little left, again. */
const AHEAD = 3_000
const LEAST = 1_500

/**
 * The clock of a world. Real time comes in from outside, so tests can hold it. It tells no moment that is not written
 * down (`extendTo`), so that it never goes back, also after a crash; where nothing can be written it stands still. While
 * it runs faster than life, hours in which every venue is closed are passed over; at life's pace they last as long as they do.
 */
export class Clock {
  private anchorReal: number
  private until: number

  constructor(
    private state: ClockState,
    private readonly calendar: Calendar,
    private readonly real: () => number,
    /** What lies ahead of it and may not be told: a rehearsal never passes the present. */
    private readonly limit: () => number = () => Infinity,
  ) {
    this.until = Math.max(state.at, state.until ?? state.at)
    this.anchorReal = real()
  }

  /** Market time as it would be if nothing held it back. */
  private get wanted(): number {
    const { at, rate, running } = this.state
    if (!running) return at
    const passed = Math.max(0, this.real() - this.anchorReal) * rate
    return Math.floor((at + passed) / 1000) * 1000
  }

  /** Market time as it would be if all of it were written down. */
  private get due(): number {
    return Math.min(this.wanted, this.limit())
  }

  /** How far the market may run on now, whoever has still to answer. */
  get target(): number {
    return Math.max(this.state.at, Math.min(this.wanted, this.until))
  }

  /** Market time now. */
  now(): number {
    return Math.max(this.state.at, Math.min(this.due, this.until))
  }

  get rate(): number {
    return this.state.rate
  }

  get running(): boolean {
    return this.state.running
  }

  /** True where time has passed that is not written down yet. */
  get isBehind(): boolean {
    return this.due > this.until
  }

  /** How far it should be written down now; undefined where that is far enough. */
  get wants(): number | undefined {
    if (!this.running || this.until - this.due >= LEAST * this.rate) return undefined
    return Math.floor((this.due + AHEAD * this.rate) / 1000) * 1000
  }

  /** It is written down that moments up to this one may be told. */
  extendTo(until: number): void {
    this.until = Math.max(this.until, until)
  }

  /** Goes on from where it stood, as if what passed meanwhile had not: after a time in which nothing could be written. */
  standStill(): void {
    this.moveTo(this.now())
  }

  snapshot(until = this.now()): ClockState {
    return { ...this.state, at: this.now(), until }
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

  /** Puts the clock forward, where that is written down. Throws RangeError for a moment that has passed: the market cannot unhappen. */
  moveTo(at: number): void {
    if (at < this.now()) throw new RangeError('The clock goes forward only')
    if (at > this.limit()) throw new RangeError('A rehearsal does not go beyond the present of the market')
    this.state = { ...this.state, at: Math.floor(at / 1000) * 1000 }
    this.until = this.state.at
    this.anchorReal = this.real()
  }

  /** Where a fast clock skips to when every venue is closed: just before the next open, or when somebody asked to be woken. */
  skipsTo(wake = Infinity): number | undefined {
    if (!this.state.running || this.state.rate <= 1) return undefined
    const now = this.now()
    if (this.calendar.sessionAt(now)) return undefined
    const before = Math.min(this.calendar.nextSession(now).open - 30_000, wake)
    return before > now && before <= this.limit() ? before : undefined
  }
}

/** How long a whole session takes at a rate, and the rate that makes it take so long. Real seconds. */
export const rateForSession = (sessionMs: number, takesSeconds: number): number =>
  sessionMs / 1000 / takesSeconds
