import { type When } from './document'
import { type SessionTime } from './times'

/** How a plan looks, by what sets a look off. */

type Look = When['look']

/** The time of each trading day at which a plan takes its events, oldest first; undefined if it takes each as it comes, or none. */
export const eventsAt = (look: Look): SessionTime | undefined =>
  typeof look === 'object' && 'events' in look ? look.events : undefined

/** The time of the day at which a plan looks by the calendar; undefined if it looks otherwise. */
export const calendarAt = (look: Look): SessionTime | undefined =>
  typeof look === 'object' && 'calendar' in look ? look.calendar : undefined

/** Minutes between two looks; undefined if it looks otherwise. */
export const minutesOf = (look: Look): number | undefined =>
  typeof look === 'object' && 'minutes' in look ? look.minutes : undefined

export const looksAtEvents = (look: Look): boolean => look === 'Event' || eventsAt(look) !== undefined

/** Whether a condition is asked when an event comes or the calendar says so, and not when it begins. */
export const asksOfState = (look: Look): boolean => looksAtEvents(look) || calendarAt(look) !== undefined
