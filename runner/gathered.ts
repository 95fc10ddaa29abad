import { type PlanEvent } from '@/core/engine/events'

type BarEvent = Extract<PlanEvent, { is: 'bar' }>

/** So long after the first of them bars that end together are waited for, milliseconds. */
const WAITS = 20

/**
 * Bars that end together come in the order in which an account follows securities, for whichever plan. They are gathered until
 * something else comes, or a moment has passed, and given in the order of the plan that takes them: its candidates come in that.
 */
export class Gathered {
  private bars: BarEvent[] = []
  private timer: ReturnType<typeof setTimeout> | undefined

  /** `order`: securities as the plan ranks them; others come last. */
  constructor(
    private readonly order: () => readonly string[],
    private readonly give: (bar: BarEvent) => void,
  ) {}

  add(bar: BarEvent): void {
    if (this.bars.length > 0 && this.bars[0].at !== bar.at) this.flush()
    this.bars.push(bar)
    this.timer ??= setTimeout(() => this.flush(), WAITS)
  }

  /** Forgets what was gathered. */
  drop(): void {
    clearTimeout(this.timer)
    this.timer = undefined
    this.bars = []
  }

  /** Gives what was gathered; called before anything else is taken. */
  flush(): void {
    const { bars } = this
    this.drop()
    if (bars.length === 0) return
    const rank = new Map(this.order().map((symbol, i) => [symbol, i]))
    const rankOf = ({ symbol }: BarEvent) => rank.get(symbol) ?? Infinity
    for (const bar of bars.sort((a, b) => (rankOf(a) < rankOf(b) ? -1 : rankOf(a) > rankOf(b) ? 1 : 0)))
      this.give(bar)
  }
}
