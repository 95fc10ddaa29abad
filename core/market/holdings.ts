/** What an account held of a security from a moment on. */
export interface Holding {
  /** Epoch milliseconds: the fill that made it so. */
  since: number
  /** Shares; below nought where sold short, 0 where nothing was left. */
  shares: number
  /** In the currency of the security; unknown (NaN) where nothing is held. */
  averagePrice: number
  /** When the position was opened: the fill that came upon nothing, or turned it round. */
  opened: number
}

export const HOLDING_NAMES = ['shares held', 'average price', 'unrealised profit', 'bars held'] as const
export type HoldingName = (typeof HOLDING_NAMES)[number]

/** What follows of a holding at one bar: its close, and how many bars have come since the position was opened. */
export function holdingValue(
  name: HoldingName,
  held: Holding | undefined,
  close: number,
  bars: number,
): number {
  if (name === 'shares held') return held?.shares ?? 0
  if (!held || held.shares === 0) return NaN
  if (name === 'average price') return held.averagePrice
  return name === 'bars held' ? bars : held.shares * (close - held.averagePrice)
}

/** Bars since the position was opened, from what the bar before had; `first` is the start of the first bar. */
export const barsHeld = (
  held: Holding | undefined,
  openedBefore: number | undefined,
  barsBefore: number,
  first: number,
): number => (!held || held.opened < first ? NaN : held.opened === openedBefore ? barsBefore + 1 : 0)

/**
 * A figure of the position at each bar: what was held when the bar was complete (a bar that grows: what is held now).
 * The bar in which the position was opened counts as bar 0 of `bars held`, which is unknown where it lies before the
 * first of the bars.
 */
export function holdingColumn(
  name: HoldingName,
  holdings: readonly Holding[] | undefined,
  { time, end, close }: { time: Float64Array; end: Float64Array; close: Float64Array },
  out: Float64Array,
): void {
  if (!holdings) {
    out.fill(NaN)
    return
  }
  let next = 0
  let bars = 0
  for (let i = 0; i < out.length; i++) {
    const opened = holdings[next - 1]?.opened
    while (next < holdings.length && holdings[next].since <= end[i]) next++
    const held = holdings[next - 1] as Holding | undefined
    bars = barsHeld(held, opened, bars, time[0])
    out[i] = holdingValue(name, held, close[i], bars)
  }
}
