/**
 * What is kept from step to step, as views into one Float64Array: it can be copied, compared, saved and put back whole.
 * Whatever a step form remembers lies in views taken here, in a fixed order, and nowhere else.
 */
export class Slots {
  private used = 0

  /**
   * Without `room` the views stand by themselves: for a form that is run alone, and for learning how much room one needs.
   * `clocks` is at how many different minutes of the day a bar may be complete.
   */
  constructor(
    private readonly room?: Float64Array,
    readonly clocks = 1440,
  ) {}

  /** The next n slots, all of them `fill`. Throws RangeError where the room is at its end. */
  take(n: number, fill = 0): Float64Array {
    const view = this.room ? this.room.subarray(this.used, this.used + n) : new Float64Array(n)
    if (view.length < n) throw new RangeError(`There is no room for ${n} more slots after ${this.used}`)
    this.used += n
    return view.fill(fill)
  }

  /** One slot; its value is at index 0. */
  cell(x = 0): Float64Array {
    return this.take(1, x)
  }

  /** Slots that were taken. */
  get size(): number {
    return this.used
  }
}
