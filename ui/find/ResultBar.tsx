'use client'
import { Button, Checkbox, Menu, Popover, Switch, TextInput } from '@mantine/core'
import { type ScanRow } from '@/core/scan/scan'
import { db, sayStorageError } from '@/store/db'
import { splitFrame } from '../market/frames'
import { tell, tellProblem } from '../shell/tell'
import { type Column } from '../table/DataTable'
import { exportTable } from '../table/exportTable'
import css from './Find.module.css'
import { type Grouping, useFind } from './findStore'
import { NameAndSave } from './NameAndSave'

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
  columns,
  filter,
  setFilter,
}: {
  rows: readonly ScanRow[]
  columns: readonly Column<ScanRow>[]
  filter: string
  setFilter(text: string): void
}) {
  const { grouping, hidden, live, frame, asOfDate, universe } = useFind()
  const shown = columns.filter((c) => !hidden.includes(c.id) && (!c.optional || hidden.includes(`+${c.id}`)))
  const toggle = (column: Column<ScanRow>) => {
    const key = column.optional ? `+${column.id}` : column.id
    useFind.setState({
      hidden: hidden.includes(key) ? hidden.filter((id) => id !== key) : [...hidden, key],
    })
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
      <KeepAsList rows={rows} />
      <Menu position="bottom-end">
        <Menu.Target>
          <Button variant="default" size="xs">
            Export
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={() => exportTable('scan', 'csv', rows, columns)}>CSV</Menu.Item>
          <Menu.Item onClick={() => exportTable('scan', 'xlsx', rows, columns)}>XLSX</Menu.Item>
        </Menu.Dropdown>
      </Menu>
    </div>
  )
}

/** Keeps the symbols that are shown as a list that other scans, and plans, can use. */
function KeepAsList({ rows }: { rows: readonly ScanRow[] }) {
  const { name } = useFind()
  const keep = async (listName: string) => {
    try {
      const same = await db.lists.where('name').equals(listName).first()
      const symbols = [...new Set([...(same?.symbols ?? []), ...rows.map((row) => row.symbol)])]
      const id = same?.id ?? crypto.randomUUID()
      await db.lists.put({ id, name: listName, symbols, changedAt: Date.now() })
      tell(
        same
          ? `“${listName}” has ${symbols.length} now, ${symbols.length - same.symbols.length} of them new.`
          : `Kept ${symbols.length} as “${listName}”.`,
      )
    } catch (error) {
      tellProblem(new Error(sayStorageError(error)))
      throw error
    }
  }
  return (
    <NameAndSave
      button="Keep as a list"
      size="xs"
      label="Name of the list"
      suggested={name}
      about={() => ({
        description: `${rows.length.toLocaleString('en-US')} securities; a list of that name is added to`,
        save: 'Keep',
      })}
      onSave={keep}
    />
  )
}
