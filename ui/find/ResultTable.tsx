'use client'
import { useMemo, useState } from 'react'
import { percentOf } from '@/core/market/change'
import { decimal } from '@/core/market/money'
import { type Security } from '@/core/market/security'
import { type ScanRow } from '@/core/scan/scan'
import { type Column, DataTable } from '../table/DataTable'
import { type Found, useFind } from './findStore'
import { ResultBar } from './ResultBar'
import { countryName, venueName } from './useUniverse'

/** The result as a table: filtered, grouped, with the columns that were chosen. */
export function ResultTable({
  result,
  columns,
  symbols,
  among,
  open,
}: {
  result: Found
  columns: readonly Column<ScanRow>[]
  symbols: ReadonlyMap<string, Security>
  /** Everyone who was looked at; all of a set of own data where left out. */
  among: readonly string[] | undefined
  open(symbol: string): void
}) {
  const { selected, grouping, hidden, entered, left, live, order } = useFind()
  const sort = useMemo(() => (order ? [{ id: order.by, desc: order.down }] : []), [order])
  const [filter, setFilter] = useState('')
  const [picked, setPicked] = useState<ReadonlySet<string>>(NONE_PICKED)
  const rows = useMemo(() => {
    const going = live ? goingRows(left, result) : []
    const wanted = filter.trim().toLowerCase()
    const all = [...result.rows, ...going]
    if (wanted === '') return all
    return all.filter((row) => {
      const security = symbols.get(row.symbol)
      const about = [row.symbol, security?.name, security?.sector, countryName(security?.country ?? '')]
      return about.some((text) => text?.toLowerCase().includes(wanted))
    })
  }, [result, filter, symbols, live, left])
  const shown = useMemo(
    () =>
      columns.filter(
        (c) => c.id !== grouping && !hidden.includes(c.id) && (!c.optional || hidden.includes(`+${c.id}`)),
      ),
    [columns, hidden, grouping],
  )
  const headingOf = useMemo(() => {
    if (grouping === 'none') return undefined
    return (symbol: string): string => {
      const security = symbols.get(symbol)
      if (!security) return 'not listed'
      if (grouping === 'country') return countryName(security.country)
      return grouping === 'venue' ? venueName(security.venue) : security[grouping]
    }
  }, [grouping, symbols])
  const groupOf = useMemo(() => headingOf && ((row: ScanRow) => headingOf(row.symbol)), [headingOf])
  const groupNote = useMemo(
    () => headingOf && shareNote(headingOf, rows.length, among ?? []),
    [headingOf, rows.length, among],
  )
  const marked = useMemo(() => rows.filter((row) => picked.has(row.symbol)), [rows, picked])
  return (
    <>
      <ResultBar
        rows={rows}
        marked={marked}
        unmark={() => setPicked(NONE_PICKED)}
        columns={columns}
        filter={filter}
        setFilter={setFilter}
      />
      <DataTable
        label="Securities that meet the rule"
        rows={rows}
        columns={shown}
        idOf={(row) => row.symbol}
        selected={selected}
        sort={sort}
        onSort={([first]) => useFind.setState({ order: first && { by: first.id, down: first.desc } })}
        groupOf={groupOf}
        groupNote={groupNote}
        picked={picked}
        onPick={setPicked}
        mark={({ symbol }) => (left[symbol] ? 'going' : entered[symbol] ? 'came' : undefined)}
        onSelect={(row) => useFind.setState({ selected: row.symbol })}
        onOpen={(row) => open(row.symbol)}
      />
    </>
  )
}

const NONE_PICKED: ReadonlySet<string> = new Set()

const share = (part: number, whole: number): string =>
  whole === 0 ? '–' : `${decimal(percentOf(part, whole), part / whole < 0.1 ? 1 : 0)} %`

/** Of a heading, its share of the hits beside that of everyone who was looked at. */
function shareNote(headingOf: (symbol: string) => string, hits: number, among: readonly string[]) {
  const all = new Map<string, number>()
  for (const symbol of among) all.set(headingOf(symbol), (all.get(headingOf(symbol)) ?? 0) + 1)
  return (heading: string, count: number): string =>
    among.length === 0
      ? ''
      : `· ${share(count, hits)} of the hits, ${share(all.get(heading) ?? 0, among.length)} of the universe`
}

/** Rows of those that met the rule a moment ago and do not any more. */
function goingRows(left: Record<string, number>, result: Found): ScanRow[] {
  const there = new Set(result.rows.map((row) => row.symbol))
  return Object.keys(left)
    .filter((symbol) => !there.has(symbol))
    .map((symbol) => ({
      symbol,
      values: result.measureTexts.map(() => NaN),
      close: NaN,
      change: NaN,
      hits: NaN,
      asOf: NaN,
      zone: 'UTC',
      bar: NaN,
      first: NaN,
      recent: [],
    }))
}
