import { decimal, priceText } from '@/core/market/money'
import { type Security } from '@/core/market/security'
import { type Timeframe } from '@/core/market/timeframe'
import { parse, unitOf, valueText } from '@/core/rules'
import { type ScanRow } from '@/core/scan/scan'
import { Change } from '../shell/Change'
import { type Column } from '../table/DataTable'
import { type FindState } from './findStore'
import { Spark } from './Spark'
import { countryName, venueName } from './useUniverse'

const SIGN: Record<string, string> = { USD: '$', EUR: '€' }

/** What stands after a header: percent, or the currency where all rows are in the same. */
function unitSign(unit: ReturnType<typeof unitOf>, currency: string): string {
  if (unit === 'percent') return ' %'
  return (unit === 'price' || unit === 'money') && currency ? ` ${SIGN[currency] ?? currency}` : ''
}

/** Columns of a scan's result: who it is, the price, then each value that the rule looked at. */
export function columnsOf(
  result: FindState['result'],
  symbols: ReadonlyMap<string, Security>,
  every: Timeframe,
): Column<ScanRow>[] {
  const known = symbols.size > 0 && (result?.rows ?? []).some((row) => symbols.has(row.symbol))
  const oneCurrency =
    new Set((result?.rows ?? []).map((row) => symbols.get(row.symbol)?.currency ?? '')).size < 2
  const who: Column<ScanRow>[] = known
    ? [
        { id: 'name', header: 'Company', value: (row) => symbols.get(row.symbol)?.name },
        {
          id: 'sector',
          header: 'Sector',
          value: (row) => symbols.get(row.symbol)?.sector,
          cell: (row) => <span className="soft">{symbols.get(row.symbol)?.sector}</span>,
        },
        {
          id: 'country',
          header: 'Country',
          optional: true,
          value: (row) => countryName(symbols.get(row.symbol)?.country ?? ''),
        },
        {
          id: 'venue',
          header: 'Venue',
          optional: true,
          value: (row) => venueName(symbols.get(row.symbol)?.venue ?? ''),
        },
        {
          id: 'currency',
          header: 'In',
          optional: oneCurrency,
          value: (row) => symbols.get(row.symbol)?.currency,
        },
      ]
    : []
  const currency = oneCurrency ? (symbols.get(result?.rows[0]?.symbol ?? '')?.currency ?? '') : ''
  const measures = (result?.measureTexts ?? []).flatMap((text, i): Column<ScanRow>[] => {
    const { tree } = parse(text)
    if (!tree || text === 'close') return []
    const unit = unitOf(tree, every)
    return [
      {
        id: `measure ${text}`,
        header: `${text}${unitSign(unit, currency)}`,
        right: true,
        value: (row) => row.values[i],
        cell: (row) => valueText(row.values[i], unit).replace(/^\$| %$/, ''),
      },
    ]
  })
  return [
    {
      id: 'symbol',
      header: 'Symbol',
      value: (row) => row.symbol,
      cell: (row) => <strong>{row.symbol}</strong>,
    },
    ...who,
    {
      id: 'close',
      header: `Close${unitSign('price', currency)}`,
      right: true,
      value: (row) => row.close,
      cell: (row) => priceText(row.close),
    },
    {
      id: 'change',
      header: every.unit === 'day' && every.count === 1 ? 'Day %' : 'Bar %',
      right: true,
      value: (row) => row.change,
      cell: (row) => <Change value={row.change} />,
    },
    ...measures,
    { id: 'recent', header: 'Lately', value: () => undefined, cell: (row) => <Spark values={row.recent} /> },
    {
      id: 'hits',
      header: 'Hits',
      right: true,
      hint: 'how often the rule came true over all bars',
      value: (row) => row.hits,
      cell: (row) => decimal(row.hits, 0),
    },
  ]
}
