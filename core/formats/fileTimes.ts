import { DateTime } from 'luxon'

/** When a row of a file is, as it is written there: dates and times come in many forms. */
export interface Written {
  /** The date as written, "yyyy-MM-dd". */
  date: string
  /** Seconds since midnight as written; undefined for a date alone. */
  clock: number | undefined
  /** The moment, where the file itself fixes it by an offset or as seconds since 1970. */
  moment?: number
}

const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec']

const YEAR_FIRST = /^(\d{4})([-./]?)(\d{1,2})\2(\d{1,2})$/
const YEAR_LAST = /^(\d{1,2})[-./](\d{1,2})[-./](\d{4}|\d{2})$/
const DAY_NAMED = /^(\d{1,2})[ -]([a-z]{3})[a-z]*[ ,-]+(\d{4}|\d{2})$/i
const MONTH_NAMED = /^([a-z]{3})[a-z]*\.? (\d{1,2}),? (\d{4})$/i

const pad = (text: string | number): string => String(text).padStart(2, '0')

/** Two digits are of this century, up to forty years ahead as spreadsheets have it (common practice: 2049). */
const yearOf = (text: string): string => (text.length === 4 ? text : `${Number(text) < 50 ? 20 : 19}${text}`)

/** A date in one of the usual forms as "yyyy-MM-dd"; undefined for what is none. */
export function readDate(text: string, dayFirst: boolean): string | undefined {
  let parts: [string, string | number, string] | undefined
  let found = YEAR_FIRST.exec(text)
  if (found && (found[2] !== '' || text.length === 8)) parts = [found[1], found[3], found[4]]
  else if ((found = YEAR_LAST.exec(text)))
    parts = dayFirst ? [yearOf(found[3]), found[2], found[1]] : [yearOf(found[3]), found[1], found[2]]
  else if ((found = DAY_NAMED.exec(text)))
    parts = [yearOf(found[3]), MONTHS.indexOf(found[2].toLowerCase()) + 1, found[1]]
  else if ((found = MONTH_NAMED.exec(text)))
    parts = [found[3], MONTHS.indexOf(found[1].toLowerCase()) + 1, found[2]]
  if (!parts) return undefined
  const date = `${parts[0]}-${pad(parts[1])}-${pad(parts[2])}`
  // Asked once a row: a whole date library would take most of the time of a file.
  const [year, month, day] = parts.map(Number)
  const there = new Date(Date.UTC(year, month - 1, day))
  return there.getUTCMonth() === month - 1 && there.getUTCDate() === day ? date : undefined
}

const CLOCK = /^(\d{1,2}):(\d{2})(?::(\d{2})(?:[.,]\d+)?)?\s*([ap]m)?$/i
const DIGITS = /^\d{1,6}$/

/** A time of day ("09:30", "9:30 PM", "93000") as seconds since midnight; undefined for what is none. */
export function readClock(text: string): number | undefined {
  let [hour, minute, second] = [NaN, NaN, 0]
  const found = CLOCK.exec(text)
  if (found) {
    hour = Number(found[1])
    if (found[4]) {
      if (hour < 1 || hour > 12) return undefined
      hour = (hour % 12) + (found[4].toLowerCase() === 'pm' ? 12 : 0)
    }
    minute = Number(found[2])
    second = Number(found[3] ?? 0)
  } else if (DIGITS.test(text)) {
    // Hours and minutes, or with seconds; noughts in front are often lost.
    const digits = text.length <= 4 ? text.padStart(4, '0') : text.padStart(6, '0')
    hour = Number(digits.slice(0, 2))
    minute = Number(digits.slice(2, 4))
    second = Number(digits.slice(4) || 0)
  }
  const sound = hour < 24 && minute < 60 && second < 60
  return sound ? hour * 3600 + minute * 60 + second : undefined
}

const OFFSET = /(Z|[+-]\d{2}:?\d{2})$/i
const EPOCH = /^\d{10}$|^\d{13}$/

/** A date, a date and time, or seconds since 1970 in one cell; undefined for what is none of them. */
export function readWhen(text: string, dayFirst: boolean): Written | undefined {
  if (EPOCH.test(text)) return ofMoment(Number(text) * (text.length === 10 ? 1000 : 1), 'utc')
  const date = readDate(text, dayFirst)
  if (date) return { date, clock: undefined }
  const gap = text.search(/[T ](?=\d{1,2}:|\d{3,6}$)/)
  if (gap < 0) return undefined
  const day = readDate(text.slice(0, gap).replace(/,$/, ''), dayFirst)
  if (!day) return undefined
  const rest = text.slice(gap + 1)
  if (OFFSET.test(rest) && rest.includes(':')) {
    const at = DateTime.fromISO(`${day}T${rest}`, { setZone: true })
    return at.isValid ? ofMoment(at.toMillis(), at.zoneName!) : undefined
  }
  const clock = readClock(rest)
  return clock === undefined ? undefined : { date: day, clock }
}

function ofMoment(moment: number, zone: string): Written {
  const at = DateTime.fromMillis(moment, { zone })
  return { date: at.toISODate()!, clock: at.hour * 3600 + at.minute * 60 + at.second, moment }
}

/** True unless some date can only be month first, as in 3/13/2026; dots are day first. */
export function looksDayFirst(texts: Iterable<string>): boolean {
  let slashes = false
  for (const text of texts) {
    const found = YEAR_LAST.exec(text.split(/[T ]/)[0])
    if (!found) continue
    if (Number(found[1]) > 12) return true
    if (Number(found[2]) > 12) return false
    slashes ||= text.includes('/')
  }
  return !slashes
}

/**
 * Moments of dates and times of day in a zone. A day's start is asked of the zone once: all times of a day without a
 * clock change follow from it, which is what makes hundreds of thousands of minute bars quick to read.
 */
export function momentsIn(zone: string): (date: string, clock: number) => number {
  const starts = new Map<string, number>()
  return (date, clock) => {
    let start = starts.get(date)
    if (start === undefined) {
      const day = DateTime.fromISO(date, { zone })
      // In some zones the clocks change at midnight, so that such a day begins at one.
      const even =
        day.hour === 0 && day.minute === 0 && day.plus({ days: 1 }).toMillis() - day.toMillis() === 86_400_000
      starts.set(date, (start = even ? day.toMillis() : NaN))
    }
    if (!Number.isNaN(start)) return start + clock * 1000
    const [hour, minute, second] = [Math.floor(clock / 3600), Math.floor(clock / 60) % 60, clock % 60]
    return DateTime.fromISO(`${date}T${pad(hour)}:${pad(minute)}:${pad(second)}`, { zone }).toMillis()
  }
}
