/** Rows in view: from the first up to, not including, `to`. */
export interface View {
  from: number
  to: number
}

/** Fewest bars that a chart is zoomed in to. */
export const LEAST = 15

/** Bars in view when a chart opens. */
const FIRST_VIEW = 130

export const lastView = (n: number, width = FIRST_VIEW): View => ({ from: Math.max(0, n - width), to: n })

/** The same view within the bars that there are, keeping its width where it can. */
export function clampView({ from, to }: View, n: number): View {
  const width = Math.min(n, Math.max(Math.min(LEAST, n), to - from))
  const start = Math.max(0, Math.min(n - width, from))
  return { from: start, to: start + width }
}

/** A view of about a hundred bars with a row in its middle. */
export const viewAbout = (row: number, n: number): View => clampView({ from: row - 50, to: row + 50 }, n)
