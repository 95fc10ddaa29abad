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
  /** Symbols whose quotes someone looks at, counted. */
  watched: Record<string, number>
  watch(symbols: readonly string[]): () => void
}

export const useLink = create<LinkState>((set) => ({
  there: 'starting',
  why: '',
  heardAt: 0,
  quotes: {},
  watched: {},
  watch(symbols) {
    const count = (by: number) =>
      set(({ watched }) => {
        const next = { ...watched }
        for (const symbol of symbols) {
          next[symbol] = (next[symbol] ?? 0) + by
          if (next[symbol] <= 0) delete next[symbol]
        }
        return { watched: next }
      })
    count(1)
    return () => count(-1)
  },
}))
