/**
 * Money and prices as whole ten-thousandths of the currency unit ("e4"), the finest step that a price can
 * have under the usual increments (0.0001 below 1.00). Integers add up exactly; 9e11 units still fit.
 */

const SCALE = 10_000

/** Currency units to whole ten-thousandths, nearest. NaN stays NaN. */
export const toE4 = (units: number): number => Math.round(units * SCALE)

/** Whole ten-thousandths to currency units: the double nearest the decimal, so it prints clean. */
export const fromE4 = (e4: number): number => e4 / SCALE

/** The nearest whole number; of two that are as near the even one (IEEE 754 roundTiesToEven), so that sums do not drift. */
export function halfEven(x: number): number {
  const floor = Math.floor(x)
  const rest = x - floor
  if (rest !== 0.5) return Math.round(x)
  return floor % 2 === 0 ? floor : floor + 1
}

/** True if a number of currency units is a whole number of ten-thousandths (within rounding of a double). */
export function isWholeE4(units: number): boolean {
  return (
    Number.isFinite(units) &&
    Math.abs(units * SCALE - Math.round(units * SCALE)) < 1e-6 * Math.max(1, Math.abs(units))
  )
}

const formats = new Map<string, Intl.NumberFormat>()

function format(decimals: number, grouping: boolean): Intl.NumberFormat {
  const key = `${decimals}${grouping}`
  let made = formats.get(key)
  if (!made) {
    made = new Intl.NumberFormat('en-US', {
      minimumFractionDigits: decimals,
      maximumFractionDigits: decimals,
      useGrouping: grouping,
    })
    formats.set(key, made)
  }
  return made
}

/** Plain decimal text with a fixed number of decimals; empty for a number that is not known. */
export function decimal(value: number | undefined, decimals = 2): string {
  if (value === undefined || Number.isNaN(value)) return ''
  return format(decimals, true).format(value).replace('-', '−')
}

/** A price with two decimals, or four below 1.00, where increments are finer. */
export const priceText = (value: number | undefined): string =>
  decimal(value, value !== undefined && Math.abs(value) < 1 && value !== 0 ? 4 : 2)

const SIGNS: Record<string, string> = { USD: '$', EUR: '€' }

/** An amount of a currency: "$8,807.04", "−€88.32", "CHF 12.00" where the currency has no sign of its own here. */
export function moneyText(value: number | undefined, currency: string, decimals = 2): string {
  if (value === undefined || Number.isNaN(value)) return ''
  const sign = SIGNS[currency] ?? `${currency}\u00a0`
  return `${value < 0 ? '−' : ''}${sign}${format(decimals, true).format(Math.abs(value))}`
}

/** An amount of dollars: "$8,807.04", "−$88.32". */
export const dollars = (value: number | undefined, decimals = 2): string => moneyText(value, 'USD', decimals)

/** A large count in short: 3.41 M, 12.5 k. */
export function short(value: number | undefined): string {
  if (value === undefined || Number.isNaN(value)) return ''
  const size = Math.abs(value)
  if (size >= 1e9) return `${decimal(value / 1e9)} B`
  if (size >= 1e6) return `${decimal(value / 1e6)} M`
  if (size >= 1e4) return `${decimal(value / 1e3, 1)} k`
  return decimal(value, Number.isInteger(value) ? 0 : 2)
}
