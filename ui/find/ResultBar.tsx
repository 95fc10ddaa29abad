'use client'
import { Button, Checkbox, Menu, Popover, Switch, TextInput } from '@mantine/core'
import { type ScanRow } from '@/core/scan/scan'
import { parseTimeframe } from '@/core/market/timeframe'
import { splitFrame } from '../market/frames'
import { StartPlan } from '../plan/StartPlan'
import { type Found } from '@/core/plans/found'
import { useUniverse } from './useUniverse'
import { KeepAsList } from '../shell/KeepAsList'
import { type Column } from '../table/DataTable'
import { exportTable } from '../table/exportTable'
import css from './Find.module.css'
import { type Grouping, useFind } from './findStore'

const GROUPINGS: Record<Grouping, string> = {
  none: 'not grouped',
  sector: 'by sector',
  country: 'by country',
  kind: 'by kind',
  venue: 'by venue',
}

/** What can be done with a result: filtered, grouped, its columns chosen, kept as a list, exported, left running. */
export function ResultBar({
  rows,
  marked,
  unmark,
  columns,
  filter,
  setFilter,
}: {
  rows: readonly ScanRow[]
  /** Those that are picked out: just they are kept and exported. */
  marked: readonly ScanRow[]
  unmark(): void
  columns: readonly Column<ScanRow>[]
  filter: string
  setFilter(text: string): void
}) {
  const { grouping, hidden, live, frame, asOfDate, universe, name, rule } = useFind()
  const { among } = useUniverse(universe)
  const kept = marked.length > 0 ? marked : rows
  const shown = columns.filter((c) => !hidden.includes(c.id) && (!c.optional || hidden.includes(`+${c.id}`)))
  const toggle = (column: Column<ScanRow>) => {
    const key = column.optional ? `+${column.id}` : column.id
    useFind.setState({
      hidden: hidden.includes(key) ? hidden.filter((id) => id !== key) : [...hidden, key],
    })
  }
  /** The search itself, as a plan carries it: where it looks among more than everything, those that it looked through. */
  const foundFrom = (): Found => {
    const { every, soFar } = splitFrame(frame)
    return {
      ...{ name: (name ?? 'the scan').slice(0, 60), rule, every, soFar, lowest: false },
      in:
        universe.is === 'everything'
          ? 'All'
          : universe.is === 'index'
            ? { index: universe.index }
            : { list: [...(among ?? [])].slice(0, 2000) },
      again: soFar ? { minutes: 1 } : 'Session',
    }
  }
  const canLive = splitFrame(frame).soFar && !asOfDate && universe.is !== 'own'
  return (
    <div className={css.resultBar}>
      <TextInput
        size="xs"
        aria-label="Filter the result"
        placeholder="filter"
        value={filter}
        onChange={(e) => setFilter(e.currentTarget.value)}
        w={120}
      />
      <Menu position="bottom-start">
        <Menu.Target>
          <button type="button" className="blank">
            {GROUPINGS[grouping]}
          </button>
        </Menu.Target>
        <Menu.Dropdown>
          {(Object.keys(GROUPINGS) as Grouping[]).map((key) => (
            <Menu.Item key={key} onClick={() => useFind.setState({ grouping: key })}>
              {GROUPINGS[key]}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
      <Popover position="bottom-start" trapFocus>
        <Popover.Target>
          <button type="button" className="blank">
            columns ({shown.length})
          </button>
        </Popover.Target>
        <Popover.Dropdown>
          <div className={css.columnList}>
            {columns
              .filter((c) => c.id !== 'symbol')
              .map((column) => (
                <Checkbox
                  key={column.id}
                  size="xs"
                  label={column.header}
                  checked={shown.includes(column)}
                  onChange={() => toggle(column)}
                />
              ))}
          </div>
        </Popover.Dropdown>
      </Popover>
      <span style={{ flex: 1 }} />
      {canLive && (
        <Switch
          size="xs"
          label="keep looking"
          checked={live}
          onChange={(e) => useFind.setState({ live: e.currentTarget.checked })}
        />
      )}
      {marked.length > 0 && (
        <span role="status">
          <strong>{marked.length.toLocaleString('en-US')}</strong> marked{' '}
          <button type="button" className="blank" onClick={unmark}>
            unmark
          </button>
        </span>
      )}
      <KeepAsList
        symbols={kept.map((row) => row.symbol)}
        button={marked.length > 0 ? `Keep the ${marked.length} as a list` : 'Keep as a list'}
        suggested={name}
      />
      {rule.trim() !== '' && kept.length > 0 && universe.is !== 'own' && (
        <StartPlan
          what="the rule"
          seed={() => ({
            name: name ?? 'From a scan',
            symbols: kept.map((row) => row.symbol),
            rule,
            every: parseTimeframe(splitFrame(frame).every)!,
            ...(asOfDate || marked.length > 0 ? {} : { found: foundFrom() }),
          })}
        >
          Begin a plan
        </StartPlan>
      )}
      <Menu position="bottom-end">
        <Menu.Target>
          <Button variant="default" size="xs">
            Export
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={() => exportTable('scan', 'csv', kept, columns)}>CSV</Menu.Item>
          <Menu.Item onClick={() => exportTable('scan', 'xlsx', kept, columns)}>XLSX</Menu.Item>
        </Menu.Dropdown>
      </Menu>
    </div>
  )
}
