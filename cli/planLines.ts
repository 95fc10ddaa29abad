import { sayFill, sayNote, sayTrace } from '@/core/engine/say'
import { sayWant } from '@/core/engine/sayWant'
import { VIEW_TEXT } from '@/core/plans/view'
import { type RunEntry } from '@/runner/entries'

/** What stands before an intent: an order is sent, other wants say themselves what they do. */
const sends = ({ intent, sends: does }: Extract<RunEntry, { is: 'intent' }>): string =>
  intent.is === 'send' ? (does ? 'sends ' : 'would send ') : does ? '' : 'would do: '

/** One line for the person who watches, in the time of the account's venue; undefined for what is told elsewhere. */
export function lineOf(entry: RunEntry, time: string): string | undefined {
  switch (entry.is) {
    case 'started':
      return `${time} ${entry.acts ? 'armed' : 'watching'}: ${entry.plan}, version ${entry.version}`
    case 'trace':
      return `${time} ${sayTrace(entry.trace)}`
    case 'note':
      return `${time} ${sayNote(entry.note)}`
    case 'view':
      return `${time} you say that the day goes ${VIEW_TEXT[entry.view.view]}${entry.view.note ? `: ${entry.view.note}` : ''}`
    case 'seen':
      return `${time} ${entry.key}: ${entry.entry.became.toLowerCase()}`
    case 'universe':
      return `${time} looks at ${entry.symbols.join(', ') || 'nothing'}${entry.left.length > 0 ? `, leaving out ${entry.left.length}` : ''}`
    case 'trouble':
      return `${time} ${entry.why}`
    case 'intent':
      return `${time} ${sends(entry)}${sayWant(entry.intent)}${entry.intent.is === 'ask' ? `: heron answer ${entry.intent.planId} ${entry.intent.order.clOrdId} yes` : ''}`
    case 'taken':
      return `${time} the broker took ${entry.clOrdId} after ${entry.waited} ms`
    case 'refused':
    case 'not sent':
      return `${time} ${entry.clOrdId} ${entry.is}: ${entry.why}`
    case 'report':
      return entry.report.execType === 'Trade' ? `${time} ${sayFill(entry.report)}` : undefined
    case 'result':
    case 'miss':
      return undefined
    case 'connection':
      return entry.there ? `${time} the broker is there again` : `${time} the broker is away: ${entry.why}`
    case 'idle':
      return `${time} idle: ${entry.why}`
    case 'stopped':
      return `${time} stopped: ${entry.why}`
  }
}
