import { DateTime } from 'luxon'
import { useLink } from '../link/useLink'

/** "fired 10:52", and the day where that is not today's in the zone of the market. */
export function useFiredText(): (fired: number, zone?: string) => string {
  // Only the date: with the time the page would be drawn again every second.
  const today = useLink((s) => s.clock?.now.slice(0, 10))
  return (fired, zone) => {
    const at = DateTime.fromMillis(fired, { zone, locale: 'en' })
    return `fired ${at.toFormat(at.toISODate() === today ? 'HH:mm' : 'ccc d LLL, HH:mm')}`
  }
}
