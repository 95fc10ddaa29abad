import { type Bars } from '../../market/bars'
import { begunBy, grown, type Growing, isBeyond, type Ticked } from '../../market/growing'
import { type Timeframe } from '../../market/timeframe'
import { type Node } from '../tree'
import { barAt, type LiveBar } from './liveBar'
import { type LiveAbout, StepMachine } from './steps'

/** One security as it is followed: its bars up to the growing one, and how many were stepped. */
interface Followed {
  zone: string
  /** Start of the last bar that was kept. */
  lastTime: number
  /** What was kept of it, to be held against bars that come anew. */
  last: LiveBar | undefined
  growing: Growing | undefined
}

/**
 * A rule or measure asked at every moment: stepped over the bars that are complete, and tried with the growing one,
 * which is followed from every message since its start. Securities beside it are followed the same way. It goes on
 * with bars that are fetched anew as long as they tell the same of what was kept.
 */
export class LiveRule {
  private readonly machine: StepMachine
  private readonly followed = new Map<string | undefined, Followed>()

  /** Throws RangeError for what cannot be followed step by step. */
  constructor(
    tree: Node,
    private readonly every: Timeframe,
    about: LiveAbout,
  ) {
    this.machine = StepMachine.of([tree], every, about)
  }

  /** Symbols whose bars and ticks are wanted besides those of the security itself. */
  get besides(): string[] {
    return this.machine.besides
  }

  /**
   * Takes bars as they stand: complete ones that are new are stepped, the growing one is taken over. False where they
   * differ from what was kept (a split, a gap in the stream): then a new one must be made. Bars of securities beside
   * are given before those of the security itself.
   */
  take(bars: Bars, beside: readonly (readonly [string, Bars])[] = []): boolean {
    const all = [...beside.map(([symbol, of]) => ({ symbol, of })), { symbol: undefined, of: bars }]
    if (!all.every(({ symbol, of }) => this.agrees(symbol, of))) return false
    const others = beside.map(([symbol, of]) => ({ symbol, of, next: this.firstNew(symbol, of) }))
    const n = bars.time.length
    for (let i = this.firstNew(undefined, bars); i < n; i++) {
      // What stands beside a bar has begun by then.
      for (const other of others) this.stepTo(other, bars.time[i])
      this.stepOne(undefined, bars, i)
    }
    for (const other of others) this.stepTo(other, Infinity)
    this.tryAll()
    return true
  }

  private stepTo(other: { symbol: string; of: Bars; next: number }, time: number): void {
    while (other.next < other.of.time.length && other.of.time[other.next] <= time)
      this.stepOne(other.symbol, other.of, other.next++)
  }

  private stepOne(symbol: string | undefined, bars: Bars, row: number): void {
    const bar = barAt(bars, row)
    if (bar.end === Infinity) {
      const state = this.stateOf(symbol, bars.zone)
      state.growing = state.growing?.time === bar.time ? wider(state.growing, bar) : bar
    } else this.keep(symbol, bar, bars.zone)
  }

  private stateOf(symbol: string | undefined, zone: string): Followed {
    let state = this.followed.get(symbol)
    if (!state)
      this.followed.set(symbol, (state = { zone, lastTime: -Infinity, last: undefined, growing: undefined }))
    return state
  }

  private firstNew(symbol: string | undefined, bars: Bars): number {
    const lastTime = this.followed.get(symbol)?.lastTime ?? -Infinity
    let row = bars.time.length
    while (row > 0 && bars.time[row - 1] > lastTime) row--
    return row
  }

  /** Whether the last bar that was kept is told the same. */
  private agrees(symbol: string | undefined, bars: Bars): boolean {
    const last = this.followed.get(symbol)?.last
    if (!last) return true
    const row = bars.time.lastIndexOf(last.time)
    if (row < 0) return false
    const now = barAt(bars, row)
    return now.close === last.close && now.high === last.high && now.low === last.low
  }

  private keep(symbol: string | undefined, bar: LiveBar, zone: string): void {
    const state = this.stateOf(symbol, zone)
    this.machine.feed(bar, true, symbol)
    state.lastTime = bar.time
    state.last = bar
    if (state.growing && state.growing.time <= bar.time) state.growing = undefined
  }

  /** Takes one message about a security: the growing bar grows, or the next one begins. */
  tick(message: Ticked, beside?: string): void {
    const state = this.followed.get(beside)
    if (!state?.growing) return
    const { growing } = state
    if (message.at < growing.time) return
    state.growing = isBeyond(growing, this.every, state.zone, message.at)
      ? this.turn(beside, state, growing, message)
      : grown(growing, message)
    this.tryAll()
  }

  /** The growing bar is over: it is kept as it was seen, until bars that are fetched tell it exactly. */
  private turn(symbol: string | undefined, state: Followed, over: Growing, message: Ticked): Growing {
    this.machine.feed({ ...over, end: message.at }, true, symbol)
    state.lastTime = over.time
    state.last = undefined
    return begunBy(message, over)
  }

  private tryAll(): void {
    for (const [symbol, { growing }] of this.followed)
      if (growing && symbol !== undefined) this.machine.feed(growing, false, symbol)
    const own = this.followed.get(undefined)?.growing
    if (own) this.machine.feed(own, false)
  }

  /** Value of the measure, or answer of the rule (see verdict.ts), now. */
  get value(): number {
    return this.machine.value(0)
  }
}

/** The same growing bar told twice: what either has seen has been. */
const wider = (one: Growing, other: LiveBar): Growing => ({
  ...other,
  high: Math.max(one.high, other.high),
  low: Math.min(one.low, other.low),
})
