'use client'
import {
  getCoreRowModel,
  getSortedRowModel,
  type Row as SortedRow,
  type SortingState,
  useReactTable,
} from '@tanstack/react-table'
import { useVirtualizer } from '@tanstack/react-virtual'
import {
  type KeyboardEvent,
  type MouseEvent,
  type ReactNode,
  useEffect,
  useMemo,
  useRef,
  useState,
} from 'react'
import css from './DataTable.module.css'

/** One column: what it is called, its value for sorting and export, and how it is shown. */
export interface Column<Row> {
  id: string
  header: string
  value(row: Row): string | number | undefined
  cell?(row: Row): ReactNode
  right?: boolean
  /** What the header does not say. */
  hint?: string
  /** Stands in exported files only: on the screen another column tells it. */
  fileOnly?: boolean
  /** Shown only when it is asked for. */
  optional?: boolean
}

interface Props<Row> {
  label: string
  rows: readonly Row[]
  columns: readonly Column<Row>[]
  idOf(row: Row): string
  selected?: string
  onSelect?(row: Row): void
  onOpen?(row: Row): void
  initialSort?: SortingState
  /** The order, where whoever shows the table keeps it. */
  sort?: SortingState
  onSort?(sort: SortingState): void
  /** Rows may be taller than one line. */
  wrap?: boolean
  /** Heading under which a row stands; rows of one heading are kept together. */
  groupOf?(row: Row): string
  /** What stands behind the count of a heading. */
  groupNote?(heading: string, count: number): string
  /** What is to be said of a row by its look: it has just come, or is going. */
  mark?(row: Row): 'came' | 'going' | undefined
  /** Rows that are picked out, by id: with the mouse, with Space, with Shift and the arrow keys. */
  picked?: ReadonlySet<string>
  onPick?(picked: ReadonlySet<string>): void
}

type Item<Row> = { heading: string; count: number } | { row: SortedRow<Row> }

/** Unknown last, whichever way the column is sorted. */
function compare(a: string | number | undefined, b: string | number | undefined): number {
  if (typeof a === 'number' && typeof b === 'number') return a - b
  return String(a ?? '').localeCompare(String(b ?? ''))
}

const known = (value: string | number | undefined) =>
  value === undefined || (typeof value === 'number' && Number.isNaN(value)) ? undefined : value

/**
 * A table for thousands of rows: only those in view are drawn. Sorted by its headers; arrow keys, Home, End and
 * Page keys move the mark, Enter opens.
 */
export function DataTable<Row>({
  label,
  rows,
  columns: all,
  idOf,
  selected,
  onSelect,
  onOpen,
  initialSort = [],
  sort,
  onSort,
  wrap,
  groupOf,
  groupNote,
  mark,
  picked,
  onPick,
}: Props<Row>) {
  const columns = useMemo(() => all.filter((column) => !column.fileOnly), [all])
  const [ownSort, setOwnSort] = useState<SortingState>(initialSort)
  const sorting = sort ?? ownSort
  const scroll = useRef<HTMLDivElement>(null)
  const defs = useMemo(
    () =>
      columns.map((column) => ({
        id: column.id,
        accessorFn: (row: Row) => known(column.value(row)),
        sortUndefined: 'last' as const,
        sortDescFirst: column.right ?? false,
        sortingFn: (a: { getValue(id: string): unknown }, b: { getValue(id: string): unknown }, id: string) =>
          compare(a.getValue(id) as never, b.getValue(id) as never),
      })),
    [columns],
  )
  const data = rows as Row[]
  const table = useReactTable({
    data,
    columns: defs,
    state: { sorting },
    onSortingChange: (change) => {
      const next = typeof change === 'function' ? change(sorting) : change
      setOwnSort(next)
      onSort?.(next)
    },
    getRowId: idOf,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
  })
  const model = table.getRowModel().rows
  const { list, sorted } = useMemo(() => gathered(model, groupOf), [model, groupOf])
  const virtual = useVirtualizer({
    count: list.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => 29,
    overscan: 12,
    initialRect: { width: 800, height: 600 },
  })
  const items = virtual.getVirtualItems()
  const at = sorted.findIndex((row) => row.id === selected)
  const place = list.findIndex((item) => 'row' in item && item.row.id === selected)

  // A marked row that is out of sight is brought into view, but only when the mark moves.
  useEffect(() => {
    if (place >= 0) virtual.scrollToIndex(place, { align: 'auto' })
    // oxlint-disable-next-line react/exhaustive-deps -- the virtualizer changes on every scroll
  }, [selected])

  const toggle = (id: string) => {
    const next = new Set(picked)
    if (!next.delete(id)) next.add(id)
    onPick?.(next)
  }
  /** Picks every row from one place to another, both among them. */
  const pickRun = (from: number, to: number) => {
    const run = sorted.slice(Math.min(from, to), Math.max(from, to) + 1)
    onPick?.(new Set([...(picked ?? []), ...run.map((row) => row.id)]))
  }
  const onRowClick = (event: MouseEvent, row: SortedRow<Row>) => {
    if (onPick && event.shiftKey && at >= 0) pickRun(at, sorted.indexOf(row))
    else if (onPick && (event.ctrlKey || event.metaKey)) toggle(row.id)
    onSelect?.(row.original)
  }

  const onKeyDown = (event: KeyboardEvent) => {
    const page = Math.max(1, Math.floor((scroll.current?.clientHeight ?? 300) / 29) - 2)
    const to = {
      ArrowDown: at + 1,
      ArrowUp: at - 1,
      Home: 0,
      End: sorted.length - 1,
      PageDown: at + page,
      PageUp: at - page,
    }[event.key]
    if (to !== undefined && sorted.length > 0) {
      event.preventDefault()
      const next = Math.max(0, Math.min(sorted.length - 1, to))
      if (event.shiftKey) pickRun(at < 0 ? next : at, next)
      onSelect?.(sorted[next].original)
    } else if (event.key === ' ' && onPick && at >= 0 && event.target === scroll.current) {
      event.preventDefault()
      toggle(sorted[at].id)
    } else if (event.key === 'Enter' && at >= 0 && event.target === scroll.current) {
      event.preventDefault()
      onOpen?.(sorted[at].original)
    }
  }
  const before = items[0]?.start ?? 0
  const after = virtual.getTotalSize() - (items.at(-1)?.end ?? 0)
  const selectable = onSelect !== undefined
  const width = columns.length + (onPick ? 1 : 0)
  return (
    <div
      ref={scroll}
      className={css.scroll}
      tabIndex={0}
      onKeyDown={onKeyDown}
      role="group"
      aria-label={label}
    >
      <table
        className={`${css.table} ${wrap ? css.wrap : ''}`}
        role={selectable ? 'grid' : undefined}
        aria-label={label}
        aria-rowcount={rows.length + 1}
      >
        <thead>
          <tr>
            {onPick && (
              <th scope="col" className={css.pick}>
                <span className="visually-hidden">Marked</span>
              </th>
            )}
            {columns.map((column) => {
              const way = sorting.find((s) => s.id === column.id)
              return (
                <th
                  key={column.id}
                  scope="col"
                  className={column.right ? css.right : undefined}
                  aria-sort={way ? (way.desc ? 'descending' : 'ascending') : undefined}
                  data-long={column.header.length > 14 || undefined}
                  title={column.hint}
                >
                  {column.header && (
                    <button type="button" onClick={() => table.getColumn(column.id)!.toggleSorting()}>
                      {column.header}
                      {way ? (way.desc ? ' ↓' : ' ↑') : ''}
                    </button>
                  )}
                </th>
              )
            })}
          </tr>
        </thead>
        <tbody>
          {before > 0 && (
            <tr className={css.filler} aria-hidden>
              <td colSpan={width} style={{ height: before }} />
            </tr>
          )}
          {items.map((item) => {
            const entry = list[item.index]
            if ('heading' in entry)
              return (
                <tr key={`heading ${entry.heading}`} className={css.heading} data-index={item.index}>
                  <th scope="rowgroup" colSpan={width}>
                    {entry.heading}{' '}
                    <span className="soft">
                      {entry.count.toLocaleString('en-US')}
                      {groupNote && ` ${groupNote(entry.heading, entry.count)}`}
                    </span>
                  </th>
                </tr>
              )
            const { row } = entry
            return (
              <tr
                key={row.id}
                ref={wrap ? virtual.measureElement : undefined}
                data-index={item.index}
                data-opens={selectable || undefined}
                data-mark={mark?.(row.original)}
                aria-rowindex={item.index + 2}
                aria-selected={selectable ? row.id === selected : undefined}
                data-picked={picked?.has(row.id) || undefined}
                onClick={(event) => onRowClick(event, row)}
                onDoubleClick={() => onOpen?.(row.original)}
              >
                {onPick && (
                  <td className={css.pick} role="gridcell">
                    <button
                      type="button"
                      tabIndex={-1}
                      aria-pressed={picked?.has(row.id) ?? false}
                      aria-label={`Mark ${row.id}`}
                      onClick={(event) => {
                        event.stopPropagation()
                        if (event.shiftKey && at >= 0) pickRun(at, sorted.indexOf(row))
                        else toggle(row.id)
                        onSelect?.(row.original)
                      }}
                    >
                      {picked?.has(row.id) ? '■' : '□'}
                    </button>
                  </td>
                )}
                {columns.map((column) => (
                  <td
                    key={column.id}
                    className={column.right ? css.right : undefined}
                    role={selectable ? 'gridcell' : undefined}
                  >
                    {column.cell ? column.cell(row.original) : column.value(row.original)}
                  </td>
                ))}
              </tr>
            )
          })}
          {after > 0 && (
            <tr className={css.filler} aria-hidden>
              <td colSpan={width} style={{ height: after }} />
            </tr>
          )}
        </tbody>
      </table>
    </div>
  )
}

/** Rows under their headings, those with the most rows first; within one as they were sorted. */
function gathered<Row>(
  rows: SortedRow<Row>[],
  groupOf: ((row: Row) => string) | undefined,
): { list: Item<Row>[]; sorted: SortedRow<Row>[] } {
  if (!groupOf) return { list: rows.map((row) => ({ row })), sorted: rows }
  const groups = new Map<string, SortedRow<Row>[]>()
  for (const row of rows) {
    const heading = groupOf(row.original)
    const group = groups.get(heading)
    if (group) group.push(row)
    else groups.set(heading, [row])
  }
  const ordered = [...groups].sort(([a, x], [b, y]) => y.length - x.length || a.localeCompare(b))
  return {
    list: ordered.flatMap(([heading, group]): Item<Row>[] => [
      { heading, count: group.length },
      ...group.map((row) => ({ row })),
    ]),
    sorted: ordered.flatMap(([, group]) => group),
  }
}
