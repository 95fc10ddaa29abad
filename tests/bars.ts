import fc from 'fast-check'
import { type Bars, emptyBars } from '@/core/market/bars'
import { type BarSet } from '@/core/market/barTable'
import { type Timeframe } from '@/core/market/timeframe'

const DAY = 86_400_000
const DAILY: Timeframe = { count: 1, unit: 'day' }

const cents = (price: number) => Math.round(price * 100) / 100

/** Daily bars from closes, each bar reaching one unit around its open and close. */
export function barsOf(closes: readonly number[], volumes: readonly number[] = []): Bars {
  const bars = emptyBars(closes.length, DAILY, 'UTC')
  for (const [i, close] of closes.entries()) {
    const open = i > 0 ? closes[i - 1] : close
    bars.time[i] = Date.UTC(2025, 0, 6) + i * DAY
    bars.end[i] = bars.time[i] + DAY
    bars.open[i] = open
    bars.high[i] = cents(Math.max(open, close) + 1)
    bars.low[i] = cents(Math.min(open, close) - 1)
    bars.close[i] = close
    bars.volume[i] = volumes[i] ?? 1000 + i
  }
  return bars
}

export const column = (values: readonly number[]): Float64Array => Float64Array.from(values)

/** Prices of a walk in cents, so that ties and turns happen often. */
export const prices = (min = 0, max = 90): fc.Arbitrary<number[]> =>
  fc
    .array(fc.integer({ min: 500, max: 2500 }), { minLength: min, maxLength: max })
    .map((cents) => cents.map((c) => c / 100))

/** The same with unknown values among them. */
export const gappyPrices = (max = 90): fc.Arbitrary<number[]> =>
  fc.array(
    fc.oneof(
      { weight: 9, arbitrary: fc.integer({ min: 500, max: 2500 }).map((c) => c / 100) },
      { weight: 1, arbitrary: fc.constant(NaN) },
    ),
    { maxLength: max },
  )

/** Compares columns value by value: unknown only where unknown is wanted, numbers to `digits` places. */
export function expectColumn(got: ArrayLike<number>, wanted: readonly number[], digits = 9): void {
  if (got.length !== wanted.length) throw new Error(`${got.length} rows where ${wanted.length} are wanted`)
  for (let i = 0; i < wanted.length; i++) {
    const close =
      Number.isNaN(wanted[i]) || Number.isNaN(got[i])
        ? Number.isNaN(wanted[i]) && Number.isNaN(got[i])
        : Math.abs(got[i] - wanted[i]) <= 10 ** -digits * Math.max(1, Math.abs(wanted[i]))
    if (!close) throw new Error(`row ${i}: ${got[i]} where ${wanted[i]} is wanted`)
  }
}

/** Daily bars of several securities, from their closes. */
export const barSetOf = (closes: Readonly<Record<string, readonly number[]>>): BarSet => ({
  symbols: Object.keys(closes),
  bars: Object.values(closes).map((one) => barsOf(one)),
})
