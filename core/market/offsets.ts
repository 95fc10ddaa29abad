import { Info } from 'luxon'

/**
 * How far the clocks of a zone are from the universal clock. Luxon asks the browser's calendar for each moment, which is dear; here
 * it is asked some fifty times for each year of a zone, and on the days on which its clocks change.
 */

const DAY = 86_400_000

/** A time in which the clocks of a zone do not change: moments at midnight of the universal clock; minutes east of it. */
export interface Steady {
  from: number
  to: number
  offset: number
}

const known = new Map<string, Map<number, Steady[]>>()

/** The steady time that holds all from one moment to another, the last not included; undefined where clocks change about then. */
export function steadyOver(zone: string, from: number, to: number): Steady | undefined {
  let years = known.get(zone)
  if (!years) known.set(zone, (years = new Map()))
  const year = new Date(from).getUTCFullYear()
  let spans = years.get(year)
  if (!spans) years.set(year, (spans = spansOf(zone, year)))
  return spans.find((span) => span.from <= from && to <= span.to)
}

/** Minutes by which the clocks of a zone are ahead of the universal one at a moment. */
export const offsetAt = (zone: string, moment: number): number =>
  steadyOver(zone, moment, moment + 1)?.offset ?? Info.normalizeZone(zone).offset(moment)

/**
 * Spans of a year and the days about it in which a zone's clocks do not change, oldest first. The days on which they do are found
 * by halving half months, none of which has two.
 */
function spansOf(zoneName: string, year: number): Steady[] {
  const zone = Info.normalizeZone(zoneName)
  const out: Steady[] = []
  const halve = (from: number, to: number, before: number, after: number): void => {
    const last = out.at(-1)
    if (before === after) {
      if (last?.to === from && last.offset === before) last.to = to
      else out.push({ from, to, offset: before })
    } else if (to - from > DAY) {
      const middle = from + Math.floor((to - from) / DAY / 2) * DAY
      const there = zone.offset(middle)
      halve(from, middle, before, there)
      halve(middle, to, there, after)
    }
  }
  const marks = Array.from({ length: 29 }, (_, half) =>
    Date.UTC(year, (half >> 1) - 1, half % 2 === 0 ? 1 : 16),
  )
  const offsets = marks.map((mark) => zone.offset(mark))
  for (let i = 1; i < marks.length; i++) halve(marks[i - 1], marks[i], offsets[i - 1], offsets[i])
  return out
}
