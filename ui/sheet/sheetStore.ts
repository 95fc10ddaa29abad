import { create } from 'zustand'
import { type Sheet } from '@/core/formats/orderSheet'
import { type BrokerProblem } from '@/client'

/** What became of a row when it was sent. */
export type Sent =
  | { is: 'sending' }
  | { is: 'sent' }
  | { is: 'before' }
  | { is: 'refused'; problem: BrokerProblem }

export interface SheetState {
  file?: { name: string; sheet: Sheet }
  problem: string
  /** By line. */
  sent: Record<number, Sent>
}

/** The file in view: kept while one goes to other sections. */
export const useSheet = create<SheetState>(() => ({ problem: '', sent: {} }))
