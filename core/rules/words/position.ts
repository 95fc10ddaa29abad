import { type Opposite, type Unit } from '../../indicators/types'
import { type HoldingName } from '../../market/holdings'
import { type NameWord } from './types'

/** What the account holds of the security. */
const held = (
  name: HoldingName,
  unit: Unit,
  doc: string,
  unknown: string,
  opposite: Opposite,
  also: string[],
): NameWord => ({
  kind: 'name',
  about: 'position',
  name,
  unit,
  doc,
  source: 'The account’s fills, added up',
  also,
  unknown,
  opposite,
  from: { of: 'position', what: name },
})

const NO_POSITION = 'nothing of it was held then, or the account is not known'

export const POSITION_WORDS: readonly NameWord[] = [
  held(
    'shares held',
    'shares',
    'Shares of the security in the account when the bar was complete, or now, where it still grows; below nought where sold short, 0 where none are.',
    'the account is not known',
    { goes: 'about nought' },
    ['position', 'holding', 'quantity'],
  ),
  held(
    'average price',
    'price',
    'What each share of the position was bought, or sold short, at on average.',
    NO_POSITION,
    { goes: 'price' },
    ['entry price', 'cost basis', 'avg price'],
  ),
  held(
    'unrealised profit',
    'money',
    'What the position would have made, had it been closed at the close of the bar; before fees.',
    NO_POSITION,
    { goes: 'neither way' },
    ['open profit', 'unrealized profit', 'p&l'],
  ),
  held(
    'bars held',
    'number',
    'Bars since the one in which the position was opened, which is 0.',
    `${NO_POSITION}, or it was opened before these bars begin`,
    { goes: 'neither way' },
    ['holding time', 'bars since entry'],
  ),
]
