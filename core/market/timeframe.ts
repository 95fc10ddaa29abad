/** Length of a bar: a whole number of minutes, hours, sessions, weeks or months. */
export type TimeframeUnit = 'min' | 'hour' | 'day' | 'week' | 'month'
export type Timeframe = { count: number; unit: TimeframeUnit }

const SPELLED: Record<string, TimeframeUnit> = {
  min: 'min',
  minute: 'min',
  minutes: 'min',
  hour: 'hour',
  hours: 'hour',
  day: 'day',
  days: 'day',
  week: 'week',
  weeks: 'week',
  month: 'month',
  months: 'month',
}

/** The unit that a word names, singular or plural; undefined for other words. */
export const timeframeUnit = (word: string): TimeframeUnit | undefined => SPELLED[word.toLowerCase()]

/** Reads "15 min", "1 day", "1day"; undefined if the text names no timeframe. */
export function parseTimeframe(text: string): Timeframe | undefined {
  const match = /^\s*(\d{1,5})\s*([a-z]+)\s*$/i.exec(text)
  const unit = match && timeframeUnit(match[2])
  if (!match || !unit || Number(match[1]) < 1) return undefined
  return { count: Number(match[1]), unit }
}

/** Canonical text: "15 min", "1 day". */
export const timeframeText = (every: Timeframe): string => `${every.count} ${every.unit}`

/** Rough length in minutes, for telling coarser from finer; a day counts as 24 hours. */
export function roughMinutes(every: Timeframe): number {
  const minutes = { min: 1, hour: 60, day: 1440, week: 10_080, month: 43_200 }
  return every.count * minutes[every.unit]
}

/** True for bars inside a session: minutes and hours. */
export const isIntraday = (every: Timeframe): boolean => every.unit === 'min' || every.unit === 'hour'
