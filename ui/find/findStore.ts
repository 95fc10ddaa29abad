import { create } from 'zustand'
import { type ScanOrder } from '@/core/scan/order'
import { type ScanResult } from '@/core/scan/scan'
import { db, type ScanFrame, type Universe } from '@/store/db'

/** A scan's result with what it was a scan of. */
export type Found = ScanResult & {
  measureTexts: string[]
  rule: string
  frame: ScanFrame
  /** Date of a past day at whose end it stands. */
  by?: string
  /** Members of the universe that the data does not hold. */
  absent: string[]
}

/** By what hits can be gathered under headings. */
export type Grouping = 'none' | 'sector' | 'country' | 'kind' | 'venue'

/** What the trader last looked for: kept between sections, and as a draft in the browser between days. */
export interface FindState {
  rule: string
  /** The rule for the other side of the market, marked on charts beside the first; '' for none. */
  against: string
  measures: string[]
  universe: Universe
  frame: ScanFrame
  /** Date of a past session whose close the scan stands at; none for now. */
  asOfDate?: string
  /** By which column the rows are ranked. */
  order?: ScanOrder
  grouping: Grouping
  /** Columns that are not shown, by id. */
  hidden: string[]
  /** The saved scan that this came from. */
  scanId?: string
  name?: string
  result?: Found
  selected?: string
  /** Left running: it looks again by itself while the session moves. */
  live: boolean
  /** Wall clock at which a row came in, and symbols that have just gone, while left running. */
  entered: Record<string, number>
  left: Record<string, number>
  /** Counts the scans that were taken up: each runs once by itself. */
  taken: number
  /** What was being written last time has been read from storage. */
  draftRead: boolean
}

export const FIRST_RULE =
  'close crosses above highest(earlier(close, 1 bar), 20) and volume > 1.2 * sma(volume, 20)'

export const useFind = create<FindState>(() => ({
  rule: FIRST_RULE,
  against: '',
  measures: [],
  universe: { is: 'everything' },
  frame: '1 day',
  grouping: 'none',
  hidden: [],
  live: false,
  entered: {},
  left: {},
  taken: 0,
  draftRead: false,
}))

const DRAFT = 'find draft'
const DRAFTED = [
  'rule',
  'against',
  'measures',
  'universe',
  'frame',
  'scanId',
  'name',
  'asOfDate',
  'order',
  'grouping',
  'hidden',
] as const
type Draft = Partial<Pick<FindState, (typeof DRAFTED)[number]>>

const draftOf = (state: FindState): Draft =>
  Object.fromEntries(DRAFTED.map((key) => [key, state[key]])) as Draft

let restoring: Promise<void> | undefined

/** Brings back, once, what was being written when the browser was closed. */
export function restoreDraft(): Promise<void> {
  restoring ??= (async () => {
    const kept = (await db.settings.get(DRAFT).catch(() => undefined))?.value as Draft | undefined
    useFind.setState({ ...(kept && typeof kept.rule === 'string' ? kept : {}), draftRead: true })
  })()
  return restoring
}

/** Nothing of the last result stands any more. */
export const NO_RESULT = {
  result: undefined,
  selected: undefined,
  entered: {},
  left: {},
  live: false,
} as const

/** Takes up another universe; the rest of the draft stays. */
export async function chooseUniverse(universe: Universe): Promise<void> {
  await restoreDraft()
  useFind.setState({ universe, ...NO_RESULT })
}

let timer: ReturnType<typeof setTimeout>
useFind.subscribe((state, before) => {
  if (DRAFTED.every((key) => state[key] === before[key]) || !state.draftRead) return
  clearTimeout(timer)
  const value = draftOf(state)
  timer = setTimeout(() => void db.settings.put({ name: DRAFT, value }).catch(() => undefined), 300)
})
