/** Change from one price to another, in percent: one rounding, so that equal moves of prices are equal. */
export const percentChange = (from: number, to: number): number => (100 * (to - from)) / from

/** A part of a whole, in percent; unknown of nothing. */
export const percentOf = (part: number, whole: number): number => (whole === 0 ? NaN : (100 * part) / whole)
