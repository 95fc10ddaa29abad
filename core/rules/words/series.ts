import { AS_PRICE, type Opposite, type Unit } from '../../indicators/types'
import { type ColumnName } from '../../market/columns'
import { type NameWord } from './types'

/** What a bar itself holds. */

const NONE: Opposite = { goes: 'neither way' }

const series = (
  name: string,
  unit: Unit,
  doc: string,
  about: { also?: string[]; unknown: string; opposite: Opposite; column?: ColumnName; least?: number },
): NameWord => ({
  kind: 'name',
  about: 'bars',
  name,
  unit,
  doc,
  source: 'Definition',
  also: about.also ?? [],
  unknown: about.unknown,
  opposite: about.opposite,
  from: { of: 'bars', column: about.column ?? (name as ColumnName) },
  ...(about.least === undefined ? {} : { range: [about.least, name === 'time' ? 1440 : Infinity] as const }),
})

const NO_PRICE = 'the bar has no price'
const NOT_COUNTED = 'the source of these bars does not count it'

export const SERIES_WORDS: readonly NameWord[] = [
  series('open', 'price', 'First price of the bar.', { unknown: NO_PRICE, opposite: AS_PRICE }),
  series('high', 'price', 'Highest price of the bar.', {
    unknown: NO_PRICE,
    opposite: { goes: 'price', name: 'low' },
  }),
  series('low', 'price', 'Lowest price of the bar.', {
    unknown: NO_PRICE,
    opposite: { goes: 'price', name: 'high' },
  }),
  series('close', 'price', 'Last price of the bar.', { unknown: NO_PRICE, opposite: AS_PRICE }),
  series('volume', 'shares', 'Shares traded in the bar.', {
    unknown: 'the bar has no volume',
    opposite: NONE,
    least: 0,
  }),
  series(
    'time',
    'clock',
    'Time of day at which the bar was complete, in the venue’s zone: time between 09:55 and 14:20.',
    { unknown: 'the bar has no time', opposite: NONE, column: 'clock', least: 0 },
  ),
  series('uptrades', 'number', 'Trades in the bar at a higher price than the one before.', {
    unknown: NOT_COUNTED,
    opposite: { goes: 'about nought', name: 'downtrades' },
  }),
  series('downtrades', 'number', 'Trades in the bar at a lower price than the one before.', {
    unknown: NOT_COUNTED,
    opposite: { goes: 'about nought', name: 'uptrades' },
  }),
  series('optionvolume', 'contracts', 'Option contracts on the security that were traded in the bar.', {
    unknown: NOT_COUNTED,
    opposite: NONE,
  }),
]
