import { create } from 'zustand'
import { type ScanResult } from '@/core/scan/scan'
import { db, type ScanFrame, type Universe } from '@/store/db'

/** What the trader last looked for: kept between sections, and as a draft in the browser between days. */
export interface FindState {
  rule: string
  measures: string[]
  universe: Universe
  frame: ScanFrame
  /** The saved scan that this came from. */
  scanId?: string
  name?: string
  result?: ScanResult & { measureTexts: string[]; rule: string }
  selected?: string
  /** What was being written last time has been read from storage. */
  draftRead: boolean
}

export const FIRST_RULE =
  'close crosses above highest(earlier(close, 1 bar), 20) and volume > 1.2 * sma(volume, 20)'

export const useFind = create<FindState>(() => ({
  rule: FIRST_RULE,
  measures: [],
  universe: { is: 'everything' },
  frame: '1 day',
  draftRead: false,
}))

const DRAFT = 'find draft'
type Draft = Pick<FindState, 'rule' | 'measures' | 'universe' | 'frame' | 'scanId' | 'name'>

let restoring: Promise<void> | undefined

/** Brings back, once, what was being written when the browser was closed. */
export function restoreDraft(): Promise<void> {
  restoring ??= (async () => {
    const kept = (await db.settings.get(DRAFT).catch(() => undefined))?.value as Draft | undefined
    useFind.setState({ ...(kept && typeof kept.rule === 'string' ? kept : {}), draftRead: true })
  })()
  return restoring
}

/** Takes up another universe; the rest of the draft stays. */
export async function chooseUniverse(universe: Universe): Promise<void> {
  await restoreDraft()
  useFind.setState({ universe, result: undefined, selected: undefined })
}

let timer: ReturnType<typeof setTimeout>
useFind.subscribe((state, before) => {
  const same = (['rule', 'measures', 'universe', 'frame', 'scanId', 'name'] as const).every(
    (key) => state[key] === before[key],
  )
  if (same || !state.draftRead) return
  clearTimeout(timer)
  const { rule, measures, universe, frame, scanId, name } = state
  timer = setTimeout(
    () =>
      void db.settings
        .put({ name: DRAFT, value: { rule, measures, universe, frame, scanId, name } })
        .catch(() => undefined),
    300,
  )
})
