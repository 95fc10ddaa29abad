import { type Funnel, withTrace } from '@/core/engine/funnel'
import { type Miss } from '@/core/engine/nearestMiss'
import { sayTrace } from '@/core/engine/say'
import { sayWant } from '@/core/engine/sayWant'
import { type Trace } from '@/core/engine/verdicts'
import { type Plan } from '@/core/plans/document'
import { type RunEntry } from '@/runner/entries'
import { type HeardEntry } from '@/workers/plans.protocol'
import { type LookedAt, withLook } from './looks'
import { type Said, saidOf } from './planSays'

/** A plan that runs in this page, and what it has said so far. */
export interface RunHere {
  plan: Plan
  acts: boolean
  /** Environment and account that it trades in, as one word and in words. */
  of: string
  where: string
  /** Why it stands still, once it does. */
  idle?: string
  /** Looks so far, entries that it sent, and the look that came nearest to another. */
  looked: number
  entered: number
  miss?: Miss
  /** When it last entered, or told the trader; market time. */
  fired?: number
  /** Newest first. */
  said: readonly Said[]
  /** What it holds, and what its trades have taken today in e4; undefined until it has traded. */
  result?: {
    held: Readonly<Record<string, number>>
    takenE4: number
    withoutStop?: Readonly<Record<string, number>>
  }
  /** How far each security came since it began. */
  funnel: Funnel
  /** When it came to something else than before. */
  looks: readonly LookedAt[]
  /** Orders that wait for the trader's answer, and events that wait for points of the trader. */
  asks: readonly Asked[]
  waits: readonly Waiting[]
}

export interface Asked {
  clOrdId: string
  text: string
  /** Market time, epoch milliseconds. */
  until: number
}

export interface Waiting {
  key: string
  symbol: string
  /** Lines that are not known. */
  lines: readonly string[]
}

const MOST_SAID = 300

/** What a run is known to be after one more of what it wrote. */
export function withHeard(run: RunHere, { entry, at }: HeardEntry): RunHere {
  const said = saidOf(entry, at)
  return {
    ...run,
    said: said ? [said, ...run.said].slice(0, MOST_SAID) : run.said,
    funnel: entry.is === 'trace' ? withTrace(run.funnel, entry.trace) : run.funnel,
    ...(entry.is === 'result'
      ? {
          result: { held: entry.held, takenE4: entry.takenE4, withoutStop: entry.withoutStop },
          // What it did before the page was loaded again is not heard once more.
          fired: run.fired ?? entry.fired,
        }
      : {}),
    ...(entry.is === 'idle' ? { idle: entry.why } : {}),
    ...(isFired(entry) ? { fired: at } : {}),
    looked: run.looked + (entry.is === 'trace' ? (entry.trace.looks ?? 1) : 0),
    entered: run.entered + (isEntry(entry) ? 1 : 0),
    ...(entry.is === 'miss' ? { miss: entry.miss } : {}),
    looks: entry.is === 'trace' ? withLook(run.looks, at, sayTrace(entry.trace)) : run.looks,
    asks: asksAfter(run.asks, entry),
    waits: entry.is === 'trace' ? waitsAfter(run.waits, entry.trace) : run.waits,
  }
}

/** Whether a plan has entered, or told what it was to tell. */
const isFired = (entry: RunEntry): boolean =>
  entry.is === 'note' ? entry.note.why === 'told' : isEntry(entry)

const isEntry = (entry: RunEntry): boolean =>
  entry.is === 'intent' && entry.sends && entry.intent.is === 'send' && entry.intent.role === 'entry'

function asksAfter(asks: readonly Asked[], entry: RunEntry): readonly Asked[] {
  if (entry.is === 'intent' && entry.intent.is === 'ask') {
    const { order, until } = entry.intent
    const text = order.legs
      ? sayWant({ is: 'send', role: 'entry', order })
      : `${order.side} ${order.orderQty} ${order.symbol}`
    return [...asks, { clOrdId: order.clOrdId, text, until }]
  }
  if (entry.is !== 'note' || !('clOrdId' in entry.note)) return asks
  const { clOrdId } = entry.note
  return asks.filter((one) => one.clOrdId !== clOrdId)
}

function waitsAfter(waits: readonly Waiting[], { event, symbol, findings }: Trace): readonly Waiting[] {
  if (event === undefined) return waits
  const others = waits.filter(({ key }) => key !== event)
  const score = findings.find((one) => one.clause === 'Provided' && one.why === 'score')
  if (score?.clause !== 'Provided' || score.why !== 'score' || score.verdict !== 'unknown') return others
  const lines = score.lines.flatMap(({ name, points }) => (points === undefined ? [name] : []))
  return [...others, { key: event, symbol, lines }]
}
