'use client'
import { useMemo, useState } from 'react'
import { type Bars } from '@/core/market/bars'
import { sayBar, stampOf } from '@/core/market/moments'
import { priceText, short } from '@/core/market/money'
import { valueText } from '@/core/rules'
import { type Column, DataTable } from '../table/DataTable'
import { type Line } from './chartOption'

/** Columns of the figures under a chart: the bar, then every measure. Rows are rows of the bars. */
export function figureColumns(bars: Bars, lines: readonly Line[]): Column<number>[] {
  const price = (name: 'open' | 'high' | 'low' | 'close'): Column<number> => ({
    id: name,
    header: name,
    right: true,
    value: (row) => bars[name][row],
    cell: (row) => priceText(bars[name][row]),
  })
  return [
    {
      id: 'when',
      header: 'bar',
      value: (row) => stampOf(bars.every, bars.zone, bars.time[row]),
      cell: (row) => sayBar(bars, row),
    },
    ...(['open', 'high', 'low', 'close'] as const).map(price),
    {
      id: 'volume',
      header: 'volume',
      right: true,
      value: (row) => bars.volume[row],
      cell: (row) => short(bars.volume[row]),
    },
    ...lines.map((line): Column<number> => ({
      id: line.text,
      header: line.text,
      right: true,
      value: (row) => line.values[row],
      cell: (row) => valueText(line.values[row], line.unit),
    })),
  ]
}

/** The figures that the chart draws, newest first. */
export function FiguresTable({ bars, lines }: { bars: Bars; lines: readonly Line[] }) {
  const rows = useMemo(() => Array.from(bars.time.keys()).reverse(), [bars])
  const columns = useMemo(() => figureColumns(bars, lines), [bars, lines])
  const [selected, setSelected] = useState<string>()
  return (
    <DataTable
      label="Figures"
      rows={rows}
      columns={columns}
      idOf={String}
      selected={selected}
      onSelect={(row) => setSelected(String(row))}
    />
  )
}
