import { type FigureName } from '../../market/figures'
import { type Unit } from '../../indicators/types'
import { type NameWord } from './types'

/** Figures of the company, as known when the bar was complete. */
const figure = (
  name: FigureName,
  unit: Unit | 'state',
  doc: string,
  unknown: string,
  also: string[] = [],
): NameWord => ({
  kind: 'name',
  about: 'company',
  name,
  unit,
  doc,
  source: 'Reports of the company, from the moment they were known',
  also,
  unknown,
  opposite: { goes: name === 'earnings growth' ? 'about nought' : 'neither way' },
  from: { of: 'figures', figure: name },
})

const NO_REPORT = 'no report of the company that has it was known by then'
const NO_DATE = 'no date of a coming report was known by then'

export const FIGURE_WORDS: readonly NameWord[] = [
  figure(
    'shares outstanding',
    'shares',
    'Shares that the company has issued and that somebody holds.',
    NO_REPORT,
    ['shares'],
  ),
  figure('float', 'shares', 'Shares that are free to trade.', NO_REPORT),
  figure('market value', 'money', 'Shares outstanding times the close.', NO_REPORT, [
    'market cap',
    'capitalisation',
  ]),
  figure(
    'earnings per share',
    'price',
    'Earnings of the last four reported quarters for each share.',
    NO_REPORT,
    ['eps'],
  ),
  figure(
    'earnings growth',
    'percent',
    'Change of the earnings per share against the four quarters before those.',
    NO_REPORT,
  ),
  figure(
    'days to earnings',
    'number',
    'Calendar days to the next report of earnings; 0 on its day.',
    NO_DATE,
    ['earnings date', 'next report'],
  ),
  figure('earnings confirmed', 'state', 'The company has confirmed the date of the next report.', NO_DATE),
  figure(
    'earnings before open',
    'state',
    'The next report comes before the open of its day, not after the close.',
    NO_DATE,
  ),
]
