/** A minute in which a plan came to something else than before, and what it came to last in it. */
export interface LookedAt {
  /** Start of it, market time, epoch milliseconds. */
  minute: number
  /** How often. */
  count: number
  text: string
}

const MINUTE = 60_000
/** Minutes that are kept: a session of the longest venue and more. */
const MOST = 1_000

/** The same with one more verdict; the list is in the order of moments. */
export function withLook(looks: readonly LookedAt[], at: number, text: string): readonly LookedAt[] {
  const minute = Math.floor(at / MINUTE) * MINUTE
  const last = looks.at(-1)
  if (last?.minute === minute) return [...looks.slice(0, -1), { minute, count: last.count + 1, text }]
  return [...looks.slice(1 - MOST), { minute, count: 1, text }]
}
