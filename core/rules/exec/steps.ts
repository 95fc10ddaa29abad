import { Slots } from '../../indicators/slots'
import { type Stepper } from '../../indicators/types'
import { type Bars } from '../../market/bars'
import { isIntraday, roughMinutes, type Timeframe, timeframeText } from '../../market/timeframe'
import { type Node } from '../tree'
import { UNKNOWN } from '../verdict'
import { bitsOf, fromBits } from './bits'
import { currencyIn } from './columns'
import { compile } from './compile'
import { Coarser, Days } from './days'
import { type Graph, type Operation } from './graph'
import { type LiveBar, viewOf } from './liveBar'
import { type About } from './source'
import { type Asked, kindOf } from './sources'

/** What is known of the security besides its bars, and of those beside it. */
export interface LiveAbout extends About {
  zone: string
  /** Zones and currencies of securities that stand beside it; those of the security itself where left out. */
  besideOf?(symbol: string): { zone?: string; currency?: string } | undefined
}

/** What a machine keeps, for JSON: slots as base64 bits, since JSON knows no NaN. */
export interface Snapshot {
  graph: string
  slots: string
}

/** One operation on one bar: fills the values of its track. */
type Run = (bar: Bars, values: Float64Array, keep: boolean) => void

/** Bars of one frame, and the values of everything that is computed on them. */
interface Track {
  every: Timeframe
  /** The values of this frame: their ids, and what runs fill them in. */
  ids: number[]
  runs: Run[]
  /** With the last complete bar, with the last bar that was kept, and with a bar that is only tried. */
  done: Float64Array
  now: Float64Array
  tried: Float64Array
  /** Which of the three holds the values as they stand. */
  current: Float64Array
  /** End of the last bar that was kept, and of the last that was fed. */
  lastEnd: Float64Array
  end: number
  /** Values of complete bars that are looked back at from finer ones. */
  past: Map<number, Past>
  /** Whether `tried` is a bar that has ended but is not kept yet. */
  pending: boolean
  coarser?: Coarser
}

interface Past {
  ring: Float64Array
  at: Float64Array
}

/** The base of one security: its days, and the tracks made of its bars, finest first. */
interface Feed {
  days: Days
  base: Track
  coarse: Track[]
  asked: Asked
}

/**
 * A graph run step by step: fed one bar, or one tick of the growing bar, at a time, at a cost that does not grow with
 * the past. Its values are those of the columns at the last of the bars so far, a property that the tests hold over
 * random rules. A coarse bar of which nothing tells that it is over (an early close) is taken as complete with the bar
 * after it. Bars of securities beside are fed before the bar of the security itself. What is kept from step to step
 * lies in one Float64Array; a tick that is tried leaves nothing in it.
 */
export class StepMachine {
  /** Everything that is kept. */
  readonly slots: Float64Array
  private readonly feeds = new Map<string | undefined, Feed>()
  /** That of the security itself. */
  private own!: Feed
  private readonly tracks: Track[] = []
  /** Of each value: its place among those of its track. */
  private readonly place: number[] = []

  /** Trees must have passed the checker. Throws RangeError for what cannot be followed step by step. */
  constructor(
    readonly graph: Graph,
    about: LiveAbout,
  ) {
    for (const [id, { frame }] of graph.values.entries()) {
      this.place[id] = (this.tracks[frame] ??= newTrack(graph.frames[frame].every)).ids.push(id) - 1
    }
    for (const [frame, { every }] of graph.frames.entries()) this.tracks[frame] ??= newTrack(every)
    const measured = new Slots(undefined, clocksOf(graph))
    this.build(about, measured)
    this.slots = new Float64Array(measured.size)
    this.build(about, new Slots(this.slots, clocksOf(graph)))
  }

  /** Trees compiled and followed. */
  static of(trees: readonly Node[], every: Timeframe, about: LiveAbout): StepMachine {
    return new StepMachine(compile(trees, every), about)
  }

  private build(about: LiveAbout, slots: Slots): void {
    const { frames, operations, values } = this.graph
    this.feeds.clear()
    const base = frames[0].every
    for (const { beside } of frames) {
      if (this.feeds.has(beside)) continue
      const zone = (beside === undefined ? undefined : about.besideOf?.(beside)?.zone) ?? about.zone
      this.feeds.set(beside, {
        ...{ days: new Days(zone, slots), base: newTrack(base), coarse: [] },
        // Of one beside it is known what is known of the security itself of the others.
        asked: askedOf(beside === undefined ? about : { besideOf: about.besideOf }),
      })
    }
    for (const [i, { every, beside }] of frames.entries()) {
      const track = this.tracks[i]
      const feed = this.feeds.get(beside)!
      const n = track.ids.length
      track.runs = []
      track.past = new Map()
      track.done = slots.take(n, NaN)
      track.now = track.current = slots.take(n, NaN)
      track.tried = new Float64Array(n)
      for (const [k, id] of track.ids.entries())
        track.done[k] = track.now[k] = values[id].holds === 'verdicts' ? UNKNOWN : NaN
      track.lastEnd = slots.cell(NaN)
      if (timeframeText(every) === timeframeText(base)) feed.base = track
      else {
        if (roughMinutes(every) < roughMinutes(base))
          throw new RangeError(
            `Bars of ${timeframeText(every)} cannot be made of bars of ${timeframeText(base)}: follow the rule on finer bars.`,
          )
        track.coarser = new Coarser(every, base, feed.days, slots)
        feed.coarse.push(track)
      }
    }
    for (const { coarse } of this.feeds.values())
      coarse.sort((a, b) => roughMinutes(a.every) - roughMinutes(b.every))
    this.own = this.feeds.get(undefined)!
    for (const operation of operations) {
      const { frame } = values[operation.kind === 'form' ? operation.outs[0] : operation.out]
      this.tracks[frame].runs.push(this.runOf(operation, frame, slots))
    }
  }

  private runOf(operation: Operation, frame: number, slots: Slots): Run {
    switch (operation.kind) {
      case 'constant': {
        const at = this.place[operation.out]
        return (_bar, values) => void (values[at] = operation.value)
      }
      case 'source': {
        const at = this.place[operation.out]
        const step = kindOf(operation.source).steps(operation.source, slots)
        const feed = this.feeds.get(this.graph.frames[frame].beside)!
        return (bar, values, keep) => void (values[at] = step(bar, feed.asked, keep))
      }
      case 'across':
        return this.acrossRun(operation, frame, slots)
      case 'form':
        return formRun(
          operation.form.steps(slots),
          operation.ins.map((id) => this.place[id]),
          operation.outs.map((id) => this.place[id]),
        )
    }
  }

  private acrossRun(operation: Extract<Operation, { kind: 'across' }>, frame: number, slots: Slots): Run {
    const { out, of, way, count } = operation
    const [at, from] = [this.place[out], this.place[of]]
    const there = this.tracks[this.graph.values[of].frame]
    if (way === 'before') {
      const past: Past = { ring: slots.take(count, NaN), at: slots.cell() }
      if (this.graph.values[of].holds === 'verdicts') past.ring.fill(UNKNOWN)
      there.past.set(out, past)
      // Rings are filled when a bar of the other track is kept; one that has ended and is not kept yet counts too.
      there.runs.push(ringRun(past, from, count))
      return (_bar, values) => {
        const { ring, at: next } = past
        const back = there.pending ? count - 1 : count
        values[at] = back === 0 ? there.tried[from] : ring[(next[0] - back + count) % count]
      }
    }
    const same = timeframeText(this.tracks[frame].every) === timeframeText(there.every)
    return (bar, values) => {
      // One that stands beside may grow together with this one.
      const known = same && !(there.end <= bar.end[0]) ? there.done : there.current
      values[at] = known[from]
    }
  }

  /** Symbols whose bars are wanted besides those of the security itself. */
  get besides(): string[] {
    return [...this.feeds.keys()].filter((symbol) => symbol !== undefined)
  }

  /** Takes the next bar, or tries a tick of the growing one: with `keep` it is complete and becomes the past. */
  feed(bar: LiveBar, keep: boolean, beside?: string): void {
    const feed = beside === undefined ? this.own : this.feeds.get(beside)
    if (!feed) return
    const day = feed.days.of(bar, keep)
    for (const track of feed.coarse) track.pending = false
    // What has ended is complete, before anything is made of the new bar; the finer first.
    for (const track of feed.coarse) {
      const ended = track.coarser!.ended(bar, day, keep)
      if (ended) {
        this.run(track, ended, keep, feed)
        track.pending = !keep
        if (keep) track.done.set(track.now)
      } else track.current = track.done
    }
    if (keep)
      for (const track of feed.coarse) {
        const made = track.coarser!.add(bar, day)
        // Complete as far as can be told: tried, and looked at from now on.
        if (made.complete) {
          this.run(track, made.bar, false, feed)
          track.now.set(track.tried)
        } else track.now.set(track.done)
        track.current = track.now
        track.lastEnd[0] = track.end
      }
    this.run(feed.base, bar, keep, feed)
    if (keep) {
      feed.base.done.set(feed.base.now)
      feed.base.lastEnd[0] = bar.end
    }
  }

  private run(track: Track, bar: LiveBar, keep: boolean, { days }: Feed): void {
    track.end = bar.end
    const view = viewOf(bar, track.every, days.zone)
    const { runs } = track
    const values = (track.current = keep ? track.now : track.tried)
    for (let i = 0; i < runs.length; i++) runs[i](view, values, keep)
  }

  /** Value of a measure, or answer of a rule (see verdict.ts), by its place among the trees. */
  value(which: number): number {
    const id = this.graph.results[which]
    return this.tracks[0].current[this.place[id]]
  }

  /** Value of any part of the rule on the bars themselves, by its place in the graph. */
  valueAt(id: number): number {
    return this.tracks[this.graph.values[id].frame].current[this.place[id]]
  }

  save(): Snapshot {
    return { graph: this.graph.fingerprint, slots: bitsOf(this.slots) }
  }

  /** Puts back what another machine of the same graph kept; false, and nothing changed, where it is of another. */
  restore({ graph, slots }: Snapshot): boolean {
    if (graph !== this.graph.fingerprint || !fromBits(slots, this.slots)) return false
    this.resume()
    return true
  }

  /** Goes on with the memory of another security of the same zone, of which something else is known. */
  goOn(memory: Float64Array, asked: Asked): void {
    this.slots.set(memory)
    this.own.asked = asked
    this.resume()
  }

  /** Takes what is known of the security from now on, in place of what was. */
  know(asked: Asked): void {
    this.own.asked = asked
  }

  private resume(): void {
    for (const track of this.tracks) {
      track.current = track.now
      track.end = track.lastEnd[0]
      track.pending = false
    }
  }
}

/**
 * What sources are asked with of a security, made once for it: every field is there from the start, since what changes its shape
 * later is slow to read.
 */
export const askedOf = ({
  besideOf,
  currency,
  increments,
  reports,
  holdings,
  drawings,
  candidate,
}: Omit<LiveAbout, 'zone'>): Asked => ({
  currency,
  increments,
  reports,
  holdings,
  drawings,
  candidate,
  currencyOf: currencyIn(currency, (symbol) => besideOf?.(symbol)?.currency),
})

function newTrack(every: Timeframe): Track {
  const none = new Float64Array(0)
  return {
    every,
    ids: [],
    runs: [],
    done: none,
    now: none,
    tried: none,
    current: none,
    lastEnd: none,
    end: NaN,
    past: new Map(),
    pending: false,
  }
}

/** An operation over the values of its own track: inputs are gathered, outputs stand one behind the other. */
function formRun(step: Stepper, ins: readonly number[], outs: readonly number[]): Run {
  const from = new Float64Array(ins.length)
  const to = new Float64Array(outs.length)
  const [first, count] = [outs[0], outs.length]
  if (count === 1)
    return (_bar, values, keep) => {
      for (let k = 0; k < from.length; k++) from[k] = values[ins[k]]
      step(from, to, keep)
      values[first] = to[0]
    }
  return (_bar, values, keep) => {
    for (let k = 0; k < from.length; k++) from[k] = values[ins[k]]
    step(from, to, keep)
    for (let k = 0; k < count; k++) values[first + k] = to[k]
  }
}

/** Puts a value of each complete bar behind those before it. */
const ringRun =
  ({ ring, at }: Past, from: number, count: number): Run =>
  (_bar, values, keep) => {
    if (!keep) return
    ring[at[0]] = values[from]
    at[0] = (at[0] + 1) % count
  }

/** At how many minutes of the day bars of a graph may be complete: few of long ones, any of short ones. */
function clocksOf({ frames }: Graph): number {
  const finest = Math.min(...frames.map(({ every }) => (isIntraday(every) ? roughMinutes(every) : 1440)))
  return Math.min(1440, 16 + 2 * Math.ceil(1440 / finest))
}
