import { decimal, priceText } from '@/core/market/money'
import { type LotView } from '@/core/orders/views'
import { useLots } from '../link/LinkProvider'
import { Change } from '../shell/Change'
import { type Column, DataTable } from '../table/DataTable'

const columns: Column<LotView>[] = [
  { id: 'opened', header: 'Opened', value: (lot) => lot.opened },
  {
    id: 'quantity',
    header: 'Shares',
    right: true,
    value: (lot) => lot.quantity,
    cell: (lot) => decimal(lot.quantity, 0),
  },
  { id: 'price', header: 'At', right: true, value: (lot) => lot.price, cell: (lot) => priceText(lot.price) },
  {
    id: 'profit',
    header: 'Profit',
    right: true,
    value: (lot) => lot.unrealized,
    cell: (lot) => <Change value={lot.unrealized} />,
  },
]

/** A position by lot: what each purchase or short sale that is still held stands at. */
export function Lots({ symbol }: { symbol: string }) {
  const lots = useLots(symbol).data
  if (!lots || lots.length === 0) return null
  return (
    <section aria-label={`Lots of ${symbol}`} style={{ marginBottom: 18 }}>
      <h2>{symbol} by lot</h2>
      <p className="soft">The oldest is closed first.</p>
      <DataTable label={`Lots of ${symbol}`} rows={lots} columns={columns} idOf={(lot) => lot.id} />
    </section>
  )
}
