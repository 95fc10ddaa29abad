import { useMemo } from 'react'
import { isIntraday } from '@/core/market/timeframe'
import { type OwnData, type Universe } from '@/store/db'
import { useIndices, useSecurities, useSession, useStates } from '../link/LinkProvider'
import { useLink } from '../link/useLink'
import { splitFrame, timeframeOf } from './frames'
import { type Market, type Source } from '../services/market'

/** The market that scans ask: undefined until it is known who is listed. */
export function useMarket(): Market | undefined {
  const securities = useSecurities().data
  const indices = useIndices().data
  return useMemo(() => securities && indices && { securities, indices }, [securities, indices])
}

/** Market seconds after which a scan that is left running looks again. */
const LIVE_EVERY = 5

/**
 * Where a scan's bars come from. Its version changes when a session of any venue opens or ends, with the minute for minute bars,
 * and every few seconds while a scan is left running over bars that still grow.
 */
export function useSource(
  universe: Universe,
  own: readonly OwnData[],
  frame: string,
  live = false,
  asOf?: string,
): Source | undefined {
  const session = useSession().data
  const { every } = splitFrame(frame)
  const moment = useLink((s) => {
    const now = s.clock?.now ?? session?.now
    if (!now) return ''
    const minute = isIntraday(timeframeOf(every)) ? ` ${now.slice(0, 16)}` : ''
    const beat = live ? ` ~${Math.floor(Date.parse(now) / 1000 / LIVE_EVERY)}` : ''
    return minute + beat
  })
  const states = useStates().data
  const state = session && states && `${session.date}#${session.market} ${states}`
  return useMemo((): Source | undefined => {
    if (universe.is === 'own') {
      const data = own.find((d) => d.id === universe.dataId)
      return data && { is: 'own', dataId: data.id, version: String(data.importedAt), asOf }
    }
    return state === undefined ? undefined : { is: 'market', frame, version: `${state}${moment}`, asOf }
  }, [universe, own, frame, state, moment, asOf])
}
