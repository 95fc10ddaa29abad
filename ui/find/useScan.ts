import { useCallback, useEffect, useRef, useState } from 'react'
import { type Checked, measuresIn, type Node, parse, print } from '@/core/rules'
import { ranked } from '@/core/scan/order'
import { type ScanResult } from '@/core/scan/scan'
import { db, type SavedScan } from '@/store/db'
import { sayWorkerProblem } from '@/workers/say'
import { WorkerFailure } from '@/workers/problems'
import { ABORTED } from '@/workers/scanPool'
import { BrokerProblem } from '@/client'
import { useServices } from '../link/LinkProvider'
import { splitFrame } from '../market/frames'
import { type Source } from '../services/market'
import { keepRun } from '../services/runs'
import { useMarket } from '../market/useMarket'
import { type Found, useFind } from './findStore'
import { type useUniverse } from './useUniverse'

/** The saved scan, if what is written is still it: a changed one is not a run of it. */
async function asSaved(scanId: string): Promise<SavedScan | undefined> {
  const saved = await db.scans.get(scanId)
  const { rule, universe, frame } = useFind.getState()
  const same =
    saved !== undefined &&
    JSON.stringify([saved.rule, saved.universe, saved.frame]) === JSON.stringify([rule, universe, frame])
  return same ? saved : undefined
}

export const sayProblem = (error: unknown): string => {
  if (error instanceof BrokerProblem) return `${error.detail} ${error.mend}`
  if (error instanceof WorkerFailure) return sayWorkerProblem(error.problem)
  const { name, message } = error as Error
  return name === ABORTED ? 'The scan was canceled.' : message
}

/** The measures that a rule looks at, then further ones, each once, by their text; those that cannot be read are left out. */
export function measureTrees(rule: Node, measures: readonly string[]): Map<string, Node> {
  const out = new Map(measuresIn(rule).map((node) => [print(node), node]))
  for (const text of measures) {
    const { tree } = parse(text)
    if (tree && !out.has(text)) out.set(text, tree)
  }
  return out
}

/** How long a row stays marked as new, and one that went stays in view, in real milliseconds. */
export const MARKED_FOR = 60_000

/** How long what a running scan has found so far stands before more of it is shown, in real milliseconds. */
const SHOWN_EVERY = 500

/** What came in and what went between two looks of a scan that is left running. */
function moved(
  before: Found,
  now: ScanResult,
): Pick<ReturnType<typeof useFind.getState>, 'entered' | 'left'> {
  const { entered, left } = useFind.getState()
  const at = Date.now()
  const lately = (times: Record<string, number>) =>
    Object.fromEntries(Object.entries(times).filter(([, time]) => at - time < MARKED_FOR))
  const was = new Set(before.rows.map((row) => row.symbol))
  const is = new Set(now.rows.map((row) => row.symbol))
  const [coming, going] = [lately(entered), lately(left)]
  for (const symbol of is) if (!was.has(symbol)) coming[symbol] = at
  for (const symbol of was) if (!is.has(symbol)) going[symbol] = at
  for (const symbol of is) delete going[symbol]
  for (const symbol of Object.keys(coming)) if (!is.has(symbol)) delete coming[symbol]
  return { entered: coming, left: going }
}

/** Runs the scan that is written, keeps its result, and with a saved scan the run. */
export function useScan(
  chosen: ReturnType<typeof useUniverse>,
  source: Source | undefined,
  checked: Checked,
) {
  const market = useMarket()
  const { scans } = useServices()
  const [running, setRunning] = useState(false)
  const [progress, setProgress] = useState(0)
  const [problem, setProblem] = useState('')
  const [waiting, setWaiting] = useState(false)
  const { universe, frame, scanId, taken, live, draftRead, result, asOfDate } = useFind()
  const abort = useRef<AbortController>(undefined)
  const { among } = chosen
  const key = source ? JSON.stringify(source) : ''

  const run = useCallback(
    async (again = false) => {
      if (!checked.type) return
      if (key === '' || !market) {
        if (universe.is === 'own' && market)
          setProblem('That set of own data was removed. Choose another universe.')
        else setWaiting(true)
        return
      }
      abort.current?.abort()
      const mine = (abort.current = new AbortController())
      const { rule, measures } = useFind.getState()
      const trees = measureTrees(checked.tree, measures)
      const texts = [...trees.keys()]
      if (!again) {
        setRunning(true)
        setProgress(2)
      }
      setProblem('')
      const own = chosen.own.find((data) => universe.is === 'own' && data.id === universe.dataId)
      // What the bars are in truth: those of an own set are as they were brought.
      const scanned = own?.every ?? (asOfDate ? splitFrame(frame).every : frame)
      const about = { measureTexts: texts, rule, frame: scanned, by: asOfDate, absent: [] }
      let shown = 0
      try {
        const found = await scans.run(
          market,
          JSON.parse(key) as Source,
          { rule: checked.tree, measures: [...trees.values()], among },
          (soFar, done, of) => {
            // Not at every piece: the screen is drawn anew each time.
            if (again || mine.signal.aborted || Date.now() - shown < SHOWN_EVERY) return
            shown = Date.now()
            setProgress((100 * done) / of)
            useFind.setState({ result: { ...soFar(), ...about } })
          },
          mine.signal,
        )
        if (mine.signal.aborted) return
        const before = useFind.getState()
        const kept = found.rows.some((row) => row.symbol === before.selected)
        found.rows = ranked(found.rows, before.order, texts)
        useFind.setState({
          result: { ...about, ...found },
          selected: kept && again ? before.selected : found.rows[0]?.symbol,
          ...(again && before.result ? moved(before.result, found) : { entered: {}, left: {} }),
        })
        const saved = !again && asOfDate === undefined && scanId ? await asSaved(scanId) : undefined
        if (saved) await keepRun(saved, found, scanned)
      } catch (error) {
        if (abort.current === mine) setProblem(sayProblem(error))
      } finally {
        if (abort.current === mine) setRunning(false)
      }
    },
    [market, scans, checked, key, among, universe, frame, scanId, asOfDate, chosen.own],
  )

  // A scan that was opened, or moved to another universe, runs without being asked; one that was asked for
  // before the market answered runs as soon as it does.
  const ready =
    draftRead &&
    checked.type !== undefined &&
    chosen.ready &&
    market !== undefined &&
    (universe.is === 'own' || key !== '')
  const view = JSON.stringify([universe, frame, scanId, asOfDate, taken])
  const lastView = useRef('')
  useEffect(() => {
    if (!ready || !(waiting || (result === undefined && lastView.current !== view))) return
    lastView.current = view
    setWaiting(false)
    void run()
  }, [ready, waiting, result, view, run])

  // Left running, it looks again when the market has moved, but never before it has done with the look before: in a
  // market that runs fast it would not come to an end.
  const lastKey = useRef('')
  const looking = useRef(false)
  const [, setLooks] = useState(0)
  const looks = live && ready && result !== undefined
  useEffect(() => {
    const moved = lastKey.current !== '' && lastKey.current !== key
    if (looks && moved) {
      if (looking.current) return
      looking.current = true
      void run(true).finally(() => {
        looking.current = false
        setLooks((n) => n + 1)
      })
    }
    lastKey.current = key
  })

  const cancel = () => {
    abort.current?.abort()
    setRunning(false)
    setProblem('The scan was canceled.')
  }
  return { run: () => run(), running: running || waiting, progress, problem, cancel }
}
