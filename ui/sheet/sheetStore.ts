import { create } from 'zustand'
import { persist, type PersistStorage } from 'zustand/middleware'
import { type Sheet } from '@/core/formats/orderSheet'
import { type BrokerProblem } from '@/client'
import { type PricedRow } from './columns'
import { tabStorage } from '../services/tabStorage'

/** What became of a row when it was sent. */
export type Sent =
  | { is: 'sending' }
  | { is: 'sent' }
  | { is: 'before' }
  | { is: 'refused'; problem: Pick<BrokerProblem, 'kind' | 'title' | 'detail' | 'mend' | 'checks'> }

/** How far sending has come. */
export interface Sending {
  done: number
  total: number
  /** Set once it was asked to stop: what is under way is still answered. */
  isStopping: boolean
}

export interface SheetState {
  file?: { name: string; sheet: Sheet }
  problem: string
  /** By line. */
  sent: Record<number, Sent>
  sending?: Sending
  /** Rows as they were priced when sending began. */
  frozen?: readonly PricedRow[]
  /** Why sending ended before its last row. */
  ended?: string
}

type Kept = Pick<SheetState, 'file' | 'problem' | 'sent'>

const inTab = tabStorage<Kept>()!
let isSending = () => false

/** While a sheet is sent nothing is written: thousands of rows would be, several times a second, and the broker knows them. */
const atRest: PersistStorage<Kept> = {
  ...inTab,
  setItem: (name, value) => (isSending() ? undefined : inTab.setItem(name, value)),
}

/** The file in view: kept while one goes to other sections, and over a reload. What was being sent then, the broker tells. */
export const useSheet = create<SheetState>()(
  persist(() => ({ problem: '', sent: {} }) as SheetState, {
    name: 'heron-sheet',
    storage: atRest,
    partialize: ({ file, sent }) => ({
      file,
      problem: '',
      sent: Object.fromEntries(Object.entries(sent).filter(([, { is }]) => is !== 'sending')),
    }),
  }),
)

isSending = () => useSheet.getState().sending !== undefined

/** Gives a row another client order id. */
export const renameRow = (line: number, clOrdId: string): void => {
  useSheet.setState(({ file, sent: { [line]: _before, ...sent } }) => ({
    sent,
    file: file && {
      ...file,
      sheet: {
        ...file.sheet,
        rows: file.sheet.rows.map((row) =>
          row.line === line && row.order
            ? { ...row, cells: { ...row.cells, id: clOrdId }, order: { ...row.order, clOrdId } }
            : row,
        ),
      },
    },
  }))
}
