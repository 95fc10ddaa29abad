'use client'
import { useLiveQuery } from 'dexie-react-hooks'
import { useEffect, useRef } from 'react'
import { checkRule, measuresIn, print } from '@/core/rules'
import { lastDue } from '@/core/scan/schedule'
import { db, type SavedScan } from '@/store/db'
import { useSession } from '../link/LinkProvider'
import { useLink } from '../link/useLink'
import { splitFrame, timeframeOf } from '../market/frames'
import { type Market, runScan, type Source } from '../market/scanEngine'
import { useMarket } from '../market/useMarket'
import { tell, tellProblem } from '../shell/tell'
import { membersOf } from './useUniverse'
import { keepRun, sayProblem } from './useScan'

/** Runs the saved scans that are due, while the application is open; each run is kept like any other. */
export function useSchedule(): void {
  const market = useMarket()
  const session = useSession().data
  const minute = useLink((s) => s.clock?.now.slice(0, 16))
  const scans = useLiveQuery(() => db.scans.filter((scan) => scan.schedule !== undefined).toArray(), [], [])
  const busy = useRef(false)
  useEffect(() => {
    if (!market || !session || !minute || scans.length === 0 || busy.current) return
    const now = Date.parse(useLink.getState().clock?.now ?? '')
    const moment = { open: Date.parse(session.opens), close: Date.parse(session.closes), now }
    busy.current = true
    const runDue = async () => {
      for (const scan of scans) {
        const due = lastDue(scan.schedule!, moment)
        if (due === undefined) continue
        const runs = await db.runs.where('scanId').equals(scan.id).toArray()
        if (runs.some((run) => (run.marketTime ?? 0) >= due)) continue
        await runByItself(market, scan, `${session.date} ${session.state} ${minute} ~${minute}`)
      }
    }
    // One tab at a time: what the first has run, the next finds among the runs.
    void navigator.locks.request('heron schedule', runDue).finally(() => (busy.current = false))
  }, [market, session, minute, scans])
}

async function runByItself(market: Market, scan: SavedScan, version: string): Promise<void> {
  try {
    const every = timeframeOf(splitFrame(scan.frame).every)
    const checked = checkRule(scan.rule, every)
    if (!checked.type) return
    const lists = await db.lists.toArray()
    const runs = new Map((await db.runs.orderBy('ranAt').toArray()).map((run) => [run.scanId, run.symbols]))
    const listed = market.securities.filter((s) => s.kind !== 'Index')
    const source: Source =
      scan.universe.is === 'own'
        ? { is: 'own', dataId: scan.universe.dataId, version }
        : { is: 'market', frame: scan.frame, version }
    const found = await runScan(
      market,
      source,
      {
        rule: scan.rule,
        measures: measuresIn(checked.tree).map(print),
        among: membersOf(scan.universe, listed, runs, lists),
      },
      () => undefined,
    )
    const own = scan.universe.is === 'own' ? await db.ownData.get(scan.universe.dataId) : undefined
    await keepRun(scan.id, scan.name, found, own?.every ?? scan.frame)
    const before = runs.get(scan.id) ?? []
    const fresh = found.rows.filter((row) => !before.includes(row.symbol)).length
    tell(`“${scan.name}” ran by itself: ${found.rows.length} meet it, ${fresh} of them new.`)
  } catch (error) {
    tellProblem(new Error(`“${scan.name}” could not run by itself: ${sayProblem(error)}`))
  }
}
