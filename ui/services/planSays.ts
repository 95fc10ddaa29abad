import { sayFill, sayNote, sayTrace } from '@/core/engine/say'
import { sayWant } from '@/core/engine/sayWant'
import { VIEW_TEXT } from '@/core/plans/view'
import { type RunEntry } from '@/runner/entries'

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
    case 'note':
      return { at, text: sayNote(entry.note), weighs: true }
    case 'view':
      return { at, text: `you say that the day goes ${VIEW_TEXT[entry.view.view]}`, weighs: false }
    case 'seen':
      return { at, text: `${entry.key}: ${entry.entry.became.toLowerCase()}`, weighs: false }
    case 'universe':
      return {
        at,
        text: `looks at ${entry.symbols.join(', ') || 'nothing'}${entry.left.length > 0 ? `, leaving out ${entry.left.length}` : ''}`,
        weighs: false,
      }
    case 'trouble':
      return { at, text: entry.why, weighs: true }
    case 'intent': {
      const { intent, sends } = entry
      const before = intent.is === 'send' ? (sends ? 'sends ' : 'would send ') : sends ? '' : 'would do: '
      return { at, text: `${before}${sayWant(intent)}`, weighs: true }
    }
    case 'refused':
    case 'not sent':
      return { at, text: `${entry.is}: ${entry.why}`, weighs: true }
    case 'report':
      return entry.report.execType === 'Trade' ? { at, text: sayFill(entry.report), weighs: true } : undefined
    case 'idle':
      return { at, text: `idle: ${entry.why}`, weighs: true }
    case 'connection':
      return { at, text: entry.there ? 'the broker is there again' : 'the broker is away', weighs: true }
    default:
      return undefined
  }
}
