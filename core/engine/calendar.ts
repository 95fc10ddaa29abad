import { calendarAt } from '../plans/looks'
import { tryCandidate } from './candidates'
import { clockOf } from './clock'
import { type Stepping } from './want'

/** So long after its time a look by the calendar waits for securities that have not been quoted since, milliseconds. */
const PATIENCE = 60_000

/**
 * Looks by the calendar once its time of the session has come: every security is judged once, on a day that When names. `acts`: false
 * while it catches up, so that a time that passed before the plan was begun counts as done.
 */
export function takeCalendar(stepping: Stepping, acts: boolean): void {
  const { prepared, state, shared, at } = stepping
  const time = calendarAt(prepared.plan.when.look)
  if (!time) return
  for (const venue of prepared.venues) {
    const clock = clockOf(venue)
    const { state: is, date } = clock.at(at)
    const due = is === 'Open' ? clock.momentOf(time, at) : Infinity
    if (at < due || state.calendar?.[venue.mic] === date) continue
    const own = prepared.sides.flatMap(({ members }, side) =>
      [...members.keys()].flatMap((symbol) =>
        prepared.listed[symbol].venue === venue ? [{ side, symbol, key: `calendar ${date}`, at }] : [],
      ),
    )
    const quoted = own.every(({ symbol }) => (shared.quotes[symbol]?.at ?? 0) >= due)
    if (acts && !quoted && at - due < PATIENCE) continue
    state.calendar = { ...state.calendar, [venue.mic]: date }
    if (!acts || clock.whenAt(prepared.plan.when, at) !== 'in time') continue
    for (const one of own) tryCandidate(stepping, one)
  }
}

/** A time that passed while an armed plan was interrupted is made up for, on the same day. */
export function goOnByCalendar(stepping: Stepping, since: number): void {
  const { prepared, state, at } = stepping
  const time = calendarAt(prepared.plan.when.look)
  if (!time) return
  for (const venue of prepared.venues) {
    const clock = clockOf(venue)
    if (clock.at(at).state !== 'Open' || clock.momentOf(time, at) < since) continue
    delete state.calendar?.[venue.mic]
  }
  takeCalendar(stepping, true)
}
