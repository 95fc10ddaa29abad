/** When something runs by itself in a session; `venue` is whose session is meant, the home venue's where left out. */
export type Schedule = (
  | { is: 'every'; minutes: number }
  | { is: 'before open'; minutes: number }
  | { is: 'after open'; minutes: number }
  | { is: 'after close' }
) & { venue?: string }

/** A session and a moment before, in or after it, epoch milliseconds. */
export interface SessionMoment {
  open: number
  close: number
  now: number
}

/**
 * The last moment up to now at which a schedule was due in a session; undefined while none has come. What ran at or
 * after it need not run again.
 */
export function lastDue(schedule: Schedule, { open, close, now }: SessionMoment): number | undefined {
  if (schedule.is === 'before open') {
    const due = open - schedule.minutes * 60_000
    // Once the session is over there is nothing left to be before.
    return now >= due && now < close ? due : undefined
  }
  if (now < open) return undefined
  if (schedule.is === 'after close') return now >= close ? close : undefined
  const step = schedule.minutes * 60_000
  if (schedule.is === 'after open')
    return now >= open + step && open + step <= close ? open + step : undefined
  const times = Math.floor((Math.min(now, close) - open) / step)
  return times >= 1 ? open + times * step : undefined
}
