'use client'
import { useMemo, useState } from 'react'
import { type Bars } from '@/core/market/bars'
import { percentChange } from '@/core/market/change'
import { sayBar } from '@/core/market/moments'
import { priceText } from '@/core/market/money'
import { noPast } from '../market/frames'
import { Change } from '../shell/Change'
import { type Column, DataTable } from '../table/DataTable'
import { AHEAD, Followed } from './Followed'
import css from './Look.module.css'

/** Every time the rule came true, newest first, with what followed; choosing one brings it into view. */
export function HitsTable({
  bars,
  rows,
  rule,
  onShow,
}: {
  bars: Bars
  rows: readonly number[]
  rule: string
  onShow(row: number): void
}) {
  const [selected, setSelected] = useState<string>()
  const none = noPast(rule)
  const after = (row: number) =>
    row + AHEAD < bars.close.length ? percentChange(bars.close[row], bars.close[row + AHEAD]) : NaN
  const newest = useMemo(() => [...rows].reverse(), [rows])
  const columns: Column<number>[] = [
    { id: 'when', header: 'When', value: (row) => bars.time[row], cell: (row) => sayBar(bars, row) },
    {
      id: 'close',
      header: 'Close',
      right: true,
      value: (row) => bars.close[row],
      cell: (row) => priceText(bars.close[row]),
    },
    {
      id: 'after',
      header: `${AHEAD} on, %`,
      hint: `change over the ${AHEAD} bars after it, in percent`,
      right: true,
      value: after,
      cell: (row) => <Change value={after(row)} />,
    },
  ]
  const show = (row: number) => {
    setSelected(String(row))
    onShow(row)
  }
  return (
    <section aria-label="Past hits">
      <h2>When the rule came true</h2>
      {none ? <p className="soft">{none}</p> : <Followed bars={bars} rows={rows} />}
      {rows.length > 0 && (
        <div className={css.hits} style={{ maxHeight: 'calc(100vh - 230px)' }}>
          <DataTable
            label="Past hits"
            rows={newest}
            columns={columns}
            idOf={String}
            selected={selected}
            onSelect={show}
            onOpen={show}
          />
        </div>
      )}
    </section>
  )
}
