import { decimal, priceText } from '@/core/market/money'
import { type Security } from '@/core/market/security'
import { type Timeframe } from '@/core/market/timeframe'
import { parse, unitOf, valueText } from '@/core/rules'
import { type ScanRow } from '@/core/scan/scan'
import { Change } from '../shell/Change'
import { type Column } from '../table/DataTable'
import { type FindState } from './findStore'
import { Spark } from './Spark'

const UNIT_SIGN: Partial<Record<ReturnType<typeof unitOf>, string>> = {
  price: ' $',
  percent: ' %',
  money: ' $',
}

/** Columns of a scan's result: who it is, the price, then each value that the rule looked at. */
export function columnsOf(
  result: FindState['result'],
  symbols: ReadonlyMap<string, Security>,
  every: Timeframe,
): Column<ScanRow>[] {
  const known = symbols.size > 0 && (result?.rows ?? []).some((row) => symbols.has(row.symbol))
  const who: Column<ScanRow>[] = known
    ? [
        { id: 'name', header: 'Company', value: (row) => symbols.get(row.symbol)?.name },
        {
          id: 'sector',
          header: 'Sector',
          value: (row) => symbols.get(row.symbol)?.sector,
          cell: (row) => <span className="soft">{symbols.get(row.symbol)?.sector}</span>,
        },
      ]
    : []
  const measures = (result?.measureTexts ?? []).flatMap((text, i): Column<ScanRow>[] => {
    const { tree } = parse(text)
    if (!tree || text === 'close') return []
    const unit = unitOf(tree, every)
    return [
      {
        id: `measure ${text}`,
        header: `${text}${UNIT_SIGN[unit] ?? ''}`,
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
      header: 'Close $',
      right: true,
      value: (row) => row.close,
      cell: (row) => priceText(row.close),
    },
    {
      id: 'change',
      header: every.unit === 'day' ? 'Day %' : 'Bar %',
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
