'use client'
import { Button, Select, TextInput } from '@mantine/core'
import { useLiveQuery } from 'dexie-react-hooks'
import { useRouter } from 'next/navigation'
import { useMemo, useState } from 'react'
import { type FileBars, readFiles, type ReadFile } from '@/core/formats/barFiles'
import {
  BAR_FIELDS,
  type BarField,
  type ColumnMap,
  matchColumns,
  missingFields,
} from '@/core/formats/barsCsv'
import { type Grid } from '@/core/formats/csv'
import { priceText } from '@/core/market/money'
import { timeframeText } from '@/core/market/timeframe'
import { db, type OwnData, sayStorageError } from '@/store/db'
import { keepOwnData, removeOwnData } from '@/store/own'
import { chooseUniverse } from '../find/findStore'
import { useSecurities, useSession } from '../link/LinkProvider'
import page from '../shell/Page.module.css'
import { dateText } from '../shell/marketTime'
import { tell } from '../shell/tell'
import { FileDrop } from '../sheet/FileDrop'
import { readFile } from '../sheet/readFile'
import { type Column, DataTable } from '../table/DataTable'
import css from './Data.module.css'
import { KeptBars } from './KeptBars'
import { Lists } from './Lists'
import { OwnFigures } from './OwnFigures'

const ZONES = [
  'America/Halifax',
  'America/New_York',
  'America/Chicago',
  'Europe/London',
  'Europe/Berlin',
  'Asia/Tokyo',
  'UTC',
]

/** Rows of one bars file; a million minute bars is about ten years. */
const BAR_ROWS = 1_000_000

/** The data that there is: the market's, and the trader's own bars from CSV files. */
export function DataPage() {
  const [files, setFiles] = useState<ReadFile[]>([])
  const [problem, setProblem] = useState('')
  const take = async (chosen: File[]) => {
    const read: ReadFile[] = []
    const failed: string[] = []
    for (const file of chosen) {
      try {
        read.push({ name: file.name, grid: await readFile(file, BAR_ROWS) })
      } catch (error) {
        failed.push((error as Error).message)
      }
    }
    setProblem(failed.join(' '))
    if (read.length > 0) setFiles(read)
  }
  return (
    <div className={page.page}>
      <section className={page.main} aria-label="Data">
        <h1>{files.length === 0 ? 'Data' : 'Your own bars'}</h1>
        {problem && (
          <p role="alert" className="refusal">
            {problem}
          </p>
        )}
        {files.length === 0 ? (
          <>
            <KeptBars />
            <h2>Your own bars</h2>
            <FileDrop accept=".csv,text/csv" multiple onFiles={take} button="Choose CSV files">
              <span className="serif" style={{ fontSize: 17 }}>
                Drop CSV files of bars here: one file a security, or one file with a symbol column.
              </span>
              <span className="soft">
                Columns are found by their names: date or time, open, high, low, close, volume. You can
                correct them.
              </span>
            </FileDrop>
            <OwnSets />
            <Lists />
            <OwnFigures />
          </>
        ) : (
          <Import key={files.map((f) => f.name).join()} files={files} done={() => setFiles([])} />
        )}
      </section>
      <aside className={page.aside} aria-label="The market's data">
        <MarketData />
      </aside>
    </div>
  )
}

function MarketData() {
  const session = useSession().data
  const securities = useSecurities().data
  return (
    <>
      <h2>The market’s data</h2>
      {session && securities ? (
        <p style={{ marginTop: 6 }}>
          {session.name} and the other venues: {securities.length.toLocaleString('en-US')} securities, daily
          bars of five years and minute bars of every session. Charts show them adjusted for splits, for
          splits and dividends, or as traded. The session of {dateText(session.opens)} runs from{' '}
          {session.opens.slice(11, 16)} to {session.closes.slice(11, 16)} in {session.zone}.
        </p>
      ) : (
        <p className="soft">The market is not there yet.</p>
      )}
      <p className="soft" style={{ marginTop: 8 }}>
        It is a stand-in: made-up companies whose prices come from one repeatable process.
      </p>
    </>
  )
}

function OwnSets() {
  const router = useRouter()
  const sets = useLiveQuery(() => db.ownData.orderBy('name').toArray(), [])
  const scan = (data: OwnData) => {
    void chooseUniverse({ is: 'own', dataId: data.id }).then(() => router.push('/find'))
  }
  const columns: Column<OwnData>[] = [
    { id: 'name', header: 'Set', value: (d) => d.name, cell: (d) => <strong>{d.name}</strong> },
    { id: 'securities', header: 'Securities', right: true, value: (d) => d.symbols.length },
    { id: 'every', header: 'Bars', value: (d) => d.every },
    {
      id: 'when',
      header: 'Brought',
      value: (d) => d.importedAt,
      cell: (d) => new Date(d.importedAt).toISOString().slice(0, 10),
    },
    {
      id: 'do',
      header: '',
      value: () => undefined,
      cell: (d) => (
        <span style={{ display: 'flex', gap: 8, justifyContent: 'flex-end' }}>
          <Button variant="default" onClick={() => scan(d)}>
            Scan it
          </Button>
          <Remove data={d} />
        </span>
      ),
    },
  ]
  if (!sets || sets.length === 0) return null
  return (
    <div style={{ display: 'flex', flexDirection: 'column', maxHeight: 360 }}>
      <h2>Sets that you brought</h2>
      <DataTable label="Sets of own data" wrap rows={sets} columns={columns} idOf={(d) => d.id} />
    </div>
  )
}

/** Asks once, in the button itself. */
function Remove({ data }: { data: OwnData }) {
  const [asked, setAsked] = useState(false)
  return (
    <Button
      variant={asked ? 'filled' : 'default'}
      color={asked ? 'red' : undefined}
      onBlur={() => setAsked(false)}
      onClick={() =>
        asked ? void removeOwnData(data.id).then(() => tell(`${data.name} was removed.`)) : setAsked(true)
      }
    >
      {asked ? `Remove ${data.symbols.length} securities` : 'Remove'}
    </Button>
  )
}

function Import({ files, done }: { files: ReadFile[]; done(): void }) {
  const router = useRouter()
  const grid: Grid = files[0].grid
  const [map, setMap] = useState<ColumnMap>(() => matchColumns(grid.columns))
  const [zone, setZone] = useState(ZONES[0])
  const [name, setName] = useState(
    files.length === 1 ? files[0].name.replace(/\.[^.]+$/, '') : 'My securities',
  )
  const [problem, setProblem] = useState('')
  const missing = missingFields(map)
  const read = useMemo(
    () => (missing.length === 0 ? readFiles(files, map, zone) : undefined),
    [files, map, zone, missing.length],
  )
  const keep = async () => {
    if (!read) return
    try {
      const data = await keepOwnData(
        name.trim(),
        timeframeText(read.securities[0].bars.every),
        read.securities,
      )
      tell(`${data.symbols.length} securities are kept as “${data.name}”.`)
      await chooseUniverse({ is: 'own', dataId: data.id })
      done()
      router.push('/find')
    } catch (error) {
      setProblem(sayStorageError(error))
    }
  }
  return (
    <>
      <p className="soft">
        {files.length === 1 ? files[0].name : `${files.length} files`}
        {read &&
          `: ${read.securities.length} ${read.securities.length === 1 ? 'security' : 'securities'}, ${read.good.toLocaleString('en-US')} good lines, ${read.bad.length.toLocaleString('en-US')} left out`}
      </p>
      <div className={css.map}>
        {BAR_FIELDS.map((field) => (
          <FieldChoice
            key={field}
            field={field}
            columns={grid.columns}
            value={map[field]}
            onChange={(column) => setMap({ ...map, [field]: column })}
          />
        ))}
        <Select
          label="Times without a zone are in"
          data={ZONES}
          value={zone}
          onChange={(v) => setZone(v ?? ZONES[0])}
          disabled={read?.datesOnly}
          searchable
        />
      </div>
      {missing.length > 0 && (
        <p role="alert" className="refusal">
          Choose the column for {missing.join(', ')}.
        </p>
      )}
      {problem && (
        <p role="alert" className="refusal">
          {problem}
        </p>
      )}
      {read?.mixed && (
        <p role="alert" className="refusal">
          {read.mixed}
        </p>
      )}
      <div className={page.bar}>
        <TextInput
          label="Keep them as"
          value={name}
          onChange={(e) => setName(e.currentTarget.value)}
          maxLength={60}
          w={260}
        />
        <Button variant="default" onClick={done}>
          Leave it
        </Button>
        <Button
          onClick={keep}
          disabled={!read || read.securities.length === 0 || name.trim() === '' || read.mixed !== undefined}
        >
          Keep {read?.securities.length ?? 0} and scan them
        </Button>
      </div>
      {read && <Kept securities={read.securities} />}
      {read && read.bad.length > 0 && <Bad bad={read.bad} many={files.length > 1} />}
    </>
  )
}

function FieldChoice({
  field,
  columns,
  value,
  onChange,
}: {
  field: BarField
  columns: string[]
  value: number
  onChange(column: number): void
}) {
  const needed = field !== 'symbol' && field !== 'volume'
  return (
    <Select
      label={field}
      data={columns.map((column, i) => ({ value: String(i), label: column || `column ${i + 1}` }))}
      value={value < 0 ? null : String(value)}
      onChange={(v) => onChange(v === null ? -1 : Number(v))}
      clearable={!needed}
      placeholder={field === 'symbol' ? 'from the file name' : needed ? 'choose' : 'none'}
      error={needed && value < 0}
    />
  )
}

function Kept({ securities }: { securities: FileBars[] }) {
  const columns: Column<FileBars>[] = [
    { id: 'symbol', header: 'Symbol', value: (s) => s.symbol, cell: (s) => <strong>{s.symbol}</strong> },
    { id: 'bars', header: 'Bars', right: true, value: (s) => s.bars.time.length },
    { id: 'every', header: 'Each', value: (s) => timeframeText(s.bars.every) },
    { id: 'first', header: 'From', value: (s) => new Date(s.bars.time[0]).toISOString().slice(0, 10) },
    {
      id: 'last',
      header: 'To',
      value: (s) => new Date(s.bars.time[s.bars.time.length - 1]).toISOString().slice(0, 10),
    },
    {
      id: 'close',
      header: 'Last close',
      right: true,
      value: (s) => s.bars.close[s.bars.close.length - 1],
      cell: (s) => priceText(s.bars.close[s.bars.close.length - 1]),
    },
  ]
  return (
    <div className={css.list}>
      <DataTable label="Securities in the files" rows={securities} columns={columns} idOf={(s) => s.symbol} />
    </div>
  )
}

function Bad({ bad, many }: { bad: { file: string; line: number; reason: string }[]; many: boolean }) {
  const columns: Column<(typeof bad)[number]>[] = [
    ...(many ? [{ id: 'file', header: 'File', value: (b: (typeof bad)[number]) => b.file }] : []),
    { id: 'line', header: 'Line', right: true, value: (b) => b.line },
    { id: 'reason', header: 'Why it is left out', value: (b) => b.reason },
  ]
  return (
    <>
      <h2 style={{ marginTop: 12 }}>Left out</h2>
      <div className={css.list}>
        <DataTable label="Lines left out" rows={bad} columns={columns} idOf={(b) => `${b.file} ${b.line}`} />
      </div>
    </>
  )
}
