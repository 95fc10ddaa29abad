import { sayTrace } from '@/core/engine/say'
import { type RunEntry } from '@/runner/run'

/** Something that a running plan says to the trader. */
export interface Said {
  at: number
  text: string
  /** An order, or a refusal: more than a verdict. */
  weighs: boolean
}

/** What an entry of a run says to the trader; undefined for what is told elsewhere. */
export function saidOf(entry: RunEntry, at: number): Said | undefined {
  switch (entry.is) {
    case 'trace':
      return entry.trace.clOrdId ? undefined : { at, text: sayTrace(entry.trace), weighs: false }
    case 'intent': {
      const { side, orderQty, symbol } = entry.intent.order
      return {
        at,
        text: `${entry.sends ? 'sends' : 'would send'} ${side} ${orderQty} ${symbol}`,
        weighs: true,
      }
    }
    case 'refused':
    case 'not sent':
      return { at, text: `${entry.is}: ${entry.why}`, weighs: true }
    case 'report': {
      const { execType, side, lastQty, symbol, lastPx } = entry.report
      return execType === 'Trade'
        ? { at, text: `${side} ${lastQty} ${symbol} at ${lastPx}`, weighs: true }
        : undefined
    }
    case 'connection':
      return { at, text: entry.there ? 'the broker is there again' : 'the broker is away', weighs: true }
    default:
      return undefined
  }
}
