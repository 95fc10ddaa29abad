import { create } from 'zustand'
import { type Clock, type Quote } from '@/core/market/wire'

/** What the page knows from the streams, beside what it asks for. */
interface LinkState {
  /** Whether the broker answers; 'refused' where it does but will not have the key. */
  there: 'starting' | 'yes' | 'no' | 'refused'
  why: string
  clock?: Clock
  /** Real time at which the last quote or clock came. */
  heardAt: number
  quotes: Record<string, Quote>
}

export const useLink = create<LinkState>(() => ({ there: 'starting', why: '', heardAt: 0, quotes: {} }))
