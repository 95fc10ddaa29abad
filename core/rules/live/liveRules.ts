import { roughMinutes, type Timeframe, timeframeText } from '../../market/timeframe'
import { type Node } from '../tree'
import { UNKNOWN } from '../verdict'
import { LiveCompiler } from './compileLive'
import {
  asBars,
  Coarser,
  Days,
  type LiveAbout,
  type LiveBar,
  newTrack,
  remember,
  sameBar,
  type Track,
} from './track'

/** The base of one security: its days, and the tracks made of its bars, finest first. */
interface Feed {
  days: Days
  base: Track
  coarse: Track[]
}

/**
 * Rules and measures followed live: fed one bar, or one tick of the growing bar, at a time, at a cost that does not
 * grow with the past. Their values are those of the compiled columns at the last of the bars so far, a property that
 * the tests hold over random rules. A coarse bar of which nothing tells that it is over (an early close) is taken as
 * complete with the bar after it. Bars of securities beside are fed before the bar of the security itself.
 */
export class LiveRules {
  private readonly feeds = new Map<string | undefined, Feed>()
  private readonly results: number[]

  /** Trees must have passed the checker. Throws RangeError for what cannot be followed live. */
  constructor(
    trees: readonly Node[],
    every: Timeframe,
    private readonly about: LiveAbout,
  ) {
    const compiler = new LiveCompiler(every)
    this.results = trees.map((tree) => compiler.compile(tree, compiler.tracks[0]))
    const base = timeframeText(every)
    for (const track of compiler.tracks) {
      const feed = this.feedOf(track.beside, every)
      if (timeframeText(track.every) === base) {
        feed.base = track
        continue
      }
      if (roughMinutes(track.every) < roughMinutes(every))
        throw new RangeError(
          `Bars of ${timeframeText(track.every)} cannot be made of bars of ${base}: follow the rule on finer bars.`,
        )
      track.coarser = new Coarser(track.every, every, feed.days)
      feed.coarse.push(track)
    }
    for (const feed of this.feeds.values())
      feed.coarse.sort((a, b) => roughMinutes(a.every) - roughMinutes(b.every))
  }

  private feedOf(beside: string | undefined, every: Timeframe): Feed {
    let feed = this.feeds.get(beside)
    if (!feed) {
      const { zone, zoneOf } = this.about
      const days = new Days(beside === undefined ? zone : (zoneOf?.(beside) ?? zone))
      this.feeds.set(beside, (feed = { days, base: newTrack(every, beside), coarse: [] }))
    }
    return feed
  }

  /** Symbols whose bars are wanted besides those of the security itself. */
  get besides(): string[] {
    return [...this.feeds.keys()].filter((symbol) => symbol !== undefined)
  }

  /** Takes the next bar, or tries a tick of the growing one: with `keep` it is complete and becomes the past. */
  feed(bar: LiveBar, keep: boolean, beside?: string): void {
    const feed = this.feeds.get(beside)
    if (!feed) return
    const day = feed.days.of(bar)
    // What has ended is complete, before anything is made of the new bar; the finer first.
    for (const track of feed.coarse) {
      const ended = track.coarser!.ended(bar, day)
      if (ended) this.run(track, ended, true, feed)
    }
    for (const track of feed.coarse) {
      if (!keep) {
        // The coarse bar grows too: what is complete stays.
        track.now = track.done
        continue
      }
      const made = track.coarser!.add(bar, day)
      if (made.complete) this.run(track, made.bar, false, feed)
      else track.now = track.done
    }
    this.run(feed.base, bar, keep, feed)
  }

  private run(track: Track, bar: LiveBar, keep: boolean, { days }: Feed): void {
    track.end = bar.end
    if (!track.view || !sameBar(track.view, bar)) track.view = asBars(bar, track.every, days.zone)
    const { view } = track
    track.now = new Array<number>(track.cells.length)
    for (const [i, cell] of track.cells.entries()) track.now[i] = cell(view, keep, this.about)
    if (!keep) return
    track.done = track.now
    remember(track)
  }

  /** Value of a measure, or answer of a rule (see verdict.ts), by its place among the trees. */
  value(which: number): number {
    const { now } = this.feeds.get(undefined)!.base
    return now[this.results[which]] ?? NaN
  }

  /** Answer of a rule: 1 holds, 0 fails, 2 unknown. */
  answer(which: number): number {
    const { now } = this.feeds.get(undefined)!.base
    return now[this.results[which]] ?? UNKNOWN
  }
}
