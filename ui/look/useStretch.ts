import { useState } from 'react'
import { type Bars } from '@/core/market/bars'
import { dateIn } from '@/core/market/moments'
import { isIntraday } from '@/core/market/timeframe'
import { timeframeOf } from '../market/frames'
import { useLink } from '../link/useLink'
import { rowOf } from './marks'
import { useBars } from './useBars'

/** Sessions that are loaded beyond the day that was asked for, so that what followed is in view too. */
const BEYOND = 4

/**
 * Which stretch of a security's minutes is loaded. Only the last ones are at first; going further back loads those
 * about the moment that is asked for, as far as the market has them. Days and longer are all there at once.
 */
export function useStretch(symbol: string, every: string, own: boolean, at: string | undefined) {
  const minutes = isIntraday(timeframeOf(every))
  const days = useBars(own ? undefined : symbol, '1 day', { soFar: true }).data ?? undefined
  const today = useLink((s) => s.clock?.now.slice(0, 10))
  const [asked, setAsked] = useState<{ every: string; moment: number }>()
  const begin = at === undefined ? undefined : Date.parse(at)
  const moment = asked?.every === every ? asked.moment : begin
  const to =
    own || !minutes || moment === undefined || !days || today === undefined
      ? undefined
      : lastDay(days, moment, today)
  /** Loads the minutes about a moment where they are not among those that are there. */
  const reach = (bars: Bars, wanted: number) => {
    const last = bars.time.length - 1
    if (!minutes || own || (wanted >= bars.time[0] && wanted <= bars.time[last])) return
    setAsked({ every, moment: wanted })
  }
  return { days: own ? undefined : days, to, reach }
}

/** The last day to load so that a moment lies within, a few sessions before it; none where that is today. */
function lastDay(days: Bars, moment: number, today: string): string | undefined {
  const row = rowOf(days, moment + 86_400_000 / 2) ?? 0
  const end = Math.min(days.time.length - 1, row + BEYOND)
  const date = dateIn(days.time[end], days.zone)
  return date >= today ? undefined : date
}
