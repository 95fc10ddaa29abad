import { AS_PRICE } from '../../indicators/types'
import { type NameWord } from './types'

/** The quote, which stands on the last bar only. */
const quoted = (name: 'last' | 'bid' | 'ask', doc: string, also: string[]): NameWord => ({
  kind: 'name',
  about: 'quote',
  name,
  unit: 'price',
  doc,
  source: 'Definition; before the open what is indicated',
  also,
  unknown: 'there is no quote at this bar',
  opposite: name === 'last' ? AS_PRICE : { goes: 'price', name: name === 'bid' ? 'ask' : 'bid' },
  from: { of: 'bars', column: name },
})

export const QUOTES: readonly NameWord[] = [
  quoted('last', 'Last traded price, now; on the last bar only.', ['last price', 'last trade']),
  quoted('bid', 'Best bid, now; on the last bar only.', ['best bid']),
  quoted('ask', 'Best ask, now; on the last bar only.', ['best ask', 'offer']),
]
