/** One line of the bench: times in the unit of its name, `spread` from the first to the third quartile. */
export interface Line {
  name: string
  n: number
  median: number
  spread: number
  unit: 'ms' | 'µs' | 'MB' | '%' | '/s'
  baseline: string
  /** Median over the baseline's median of the same run. */
  ratio: number
  /** What is to be said of it, such as why it needs more than was wanted. */
  reason?: string
}

export const quantile = (sorted: readonly number[], q: number): number =>
  sorted[Math.min(sorted.length - 1, Math.floor(q * sorted.length))]

export const round = (value: number): number => Number(value.toPrecision(4))

/** Sums up times of one thing, against the median of its baseline (its own, where it is the baseline). */
export function lineOf(
  name: string,
  times: readonly number[],
  unit: Line['unit'],
  baseline: { name: string; median: number } | undefined,
): Line {
  const sorted = [...times].sort((a, b) => a - b)
  const median = quantile(sorted, 0.5)
  return {
    name,
    n: times.length,
    median: round(median),
    spread: round(quantile(sorted, 0.75) - quantile(sorted, 0.25)),
    unit,
    baseline: baseline?.name ?? name,
    ratio: round(median / (baseline?.median ?? median)),
  }
}

/** Milliseconds that each of `runs` calls takes, after some that warm the compiler up. */
export function timeRuns(run: () => unknown, runs: number, warmUp = 5): number[] {
  for (let i = 0; i < warmUp; i++) run()
  return Array.from({ length: runs }, () => {
    globalThis.gc?.()
    const began = performance.now()
    run()
    return performance.now() - began
  })
}
