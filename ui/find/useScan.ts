import { useCallback, useEffect, useRef, useState } from 'react'
import { type Checked, measuresIn, print } from '@/core/rules'
import { db, type Universe } from '@/store/db'
import { useBroker, useSession } from '../link/LinkProvider'
import { BrokerProblem } from '../link/problem'
import { useLink } from '../link/useLink'
import { useFind } from './findStore'
import { cancelScan, runScan, type Source } from './scanEngine'
import { type useUniverse } from './useUniverse'

/** Where a scan's bars come from; the version changes when a session opens or ends. */
export function useSource(
  universe: Universe,
  own: ReturnType<typeof useUniverse>['own'],
): Source | undefined {
  const session = useSession().data
  const frame = useFind((s) => s.frame)
  const minute = useLink((s) => s.clock?.now.slice(0, 16))
  if (universe.is === 'own') {
    const data = own.find((d) => d.id === universe.dataId)
    return data && { is: 'own', dataId: data.id, version: String(data.importedAt) }
  }
  if (!session) return undefined
  const version = `${session.date} ${session.state} ${frame === '15 min' ? minute : ''}`
  return { is: 'market', frame, version }
}

/** True if what is written is still the saved scan: a changed one is not a run of it. */
async function isAsSaved(scanId: string): Promise<boolean> {
  const saved = await db.scans.get(scanId)
  const { rule, universe, frame } = useFind.getState()
  return (
    saved !== undefined &&
    JSON.stringify([saved.rule, saved.universe, saved.frame]) === JSON.stringify([rule, universe, frame])
  )
}

/** Runs the scan that is written, keeps its result, and with a saved scan the run. */
export function useScan(chosen: ReturnType<typeof useUniverse>, checked: Checked) {
  const broker = useBroker()
  const [running, setRunning] = useState(false)
  const [progress, setProgress] = useState(0)
  const [problem, setProblem] = useState('')
  const [waiting, setWaiting] = useState(false)
  const universe = useFind((s) => s.universe)
  const source = useSource(universe, chosen.own)
  const { among } = chosen
  const key = source ? JSON.stringify(source) : ''

  const run = useCallback(async () => {
    if (!checked.type) return
    if (key === '') {
      if (universe.is === 'own') setProblem('That set of own data was removed. Choose another universe.')
      else setWaiting(true)
      return
    }
    const { rule, measures, scanId, name } = useFind.getState()
    const texts = [...new Set([...measuresIn(checked.tree).map(print), ...measures])]
    setRunning(true)
    setProgress(2)
    setProblem('')
    try {
      const result = await runScan(
        broker,
        JSON.parse(key) as Source,
        { rule, measures: texts, among },
        (done, of) => setProgress((100 * done) / of),
      )
      useFind.setState({ result: { ...result, measureTexts: texts, rule }, selected: result.rows[0]?.symbol })
      if (scanId && name && (await isAsSaved(scanId))) {
        const now = useLink.getState().clock?.now
        await db.runs.add({
          id: crypto.randomUUID(),
          scanId,
          name,
          ranAt: Date.now(),
          marketTime: now ? Date.parse(now) : undefined,
          dataAsOf: result.asOf,
          symbols: result.rows.map((row) => row.symbol),
        })
      }
    } catch (error) {
      const message =
        error instanceof BrokerProblem ? `${error.detail} ${error.mend}` : (error as Error).message
      setProblem(message === 'canceled' ? 'The scan was canceled.' : message)
    } finally {
      setRunning(false)
    }
  }, [broker, checked, key, among, universe])
  // A scan that was opened, or moved to another universe, runs without being asked; one that was asked for
  // before the market answered runs as soon as it does.
  const { draftRead, result, scanId, frame } = useFind()
  const ready =
    draftRead && checked.type !== undefined && chosen.ready && (universe.is === 'own' || key !== '')
  const view = JSON.stringify([universe, frame, scanId])
  const lastView = useRef('')
  useEffect(() => {
    if (!ready || !(waiting || (result === undefined && lastView.current !== view))) return
    lastView.current = view
    setWaiting(false)
    void run()
  }, [ready, waiting, result, view, run])
  return { run, running: running || waiting, progress, problem, cancel: cancelScan }
}
