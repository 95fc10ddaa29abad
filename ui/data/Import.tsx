'use client'
import { Button, Loader, Select, TextInput } from '@mantine/core'
import { useRouter } from 'next/navigation'
import { useEffect, useState } from 'react'
import { BAR_FIELDS, type BarField, type ColumnMap, missingFields } from '@/core/formats/barColumns'
import { type FileBars } from '@/core/formats/barFiles'
import { type BadLine } from '@/core/formats/problems'
import { sayLine } from '@/core/formats/say'
import { sayBar } from '@/core/market/moments'
import { priceText } from '@/core/market/money'
import { timeframeText } from '@/core/market/timeframe'
import { sayStorageError } from '@/store/db'
import { keepOwnData } from '@/store/own'
import { type Opened, type ReadBarFiles } from '@/workers/bars.protocol'
import { type BarsReader } from '@/workers/barsReader'
import { sayFailure } from '@/workers/say'
import { chooseUniverse } from '../find/findStore'
import page from '../shell/Page.module.css'
import { tell } from '../shell/tell'
import { type Column, DataTable } from '../table/DataTable'
import { FirstLines } from './FirstLines'
import css from './Data.module.css'

const ZONES = [
  'America/Halifax',
  'America/New_York',
  'America/Chicago',
  'Europe/London',
  'Europe/Berlin',
  'Asia/Tokyo',
  'UTC',
]

/** What the files say with the columns chosen so far; undefined while the worker reads. */
function useRead(reader: BarsReader, map: ColumnMap, zone: string, sound: boolean) {
  const [read, setRead] = useState<ReadBarFiles>()
  const [problem, setProblem] = useState('')
  useEffect(() => {
    if (!sound) return
    let asked = true
    setRead(undefined)
    setProblem('')
    reader.read(map, zone).then(
      (found) => asked && setRead(found),
      (error: unknown) => asked && setProblem(sayFailure(error)),
    )
    return () => {
      asked = false
    }
  }, [reader, map, zone, sound])
  return { read: sound ? read : undefined, problem }
}

/** Files that were opened: which column is what, what they hold, what is left out; kept as a set to scan. */
export function Import({ reader, opened, done }: { reader: BarsReader; opened: Opened; done(): void }) {
  const router = useRouter()
  const { names, columns } = opened
  const [map, setMap] = useState<ColumnMap>(opened.map)
  const [zone, setZone] = useState(ZONES[0])
  const [name, setName] = useState(names.length === 1 ? names[0].replace(/\.[^.]+$/, '') : 'My securities')
  const [problem, setProblem] = useState('')
  const missing = missingFields(map)
  const { read, problem: unread } = useRead(reader, map, zone, missing.length === 0)
  const keep = async () => {
    if (!read) return
    try {
      const every = timeframeText(read.securities[0].bars.every)
      const data = await keepOwnData(name.trim(), every, read.securities)
      tell(
        `${data.symbols.length === 1 ? '1 security is' : `${data.symbols.length} securities are`} kept as “${data.name}”.`,
      )
      await chooseUniverse({ is: 'own', dataId: data.id })
      done()
      router.push('/find')
    } catch (error) {
      setProblem(sayStorageError(error))
    }
  }
  return (
    <>
      <p className="soft" role="status">
        {names.length === 1 ? names[0] : `${names.length} files`}
        {read
          ? `: ${read.securities.length} ${read.securities.length === 1 ? 'security' : 'securities'}, ${read.good.toLocaleString('en-US')} good lines, ${read.bad.length.toLocaleString('en-US')} left out`
          : missing.length === 0 &&
            !unread && (
              <>
                {' '}
                <Loader size={12} /> reading …
              </>
            )}
      </p>
      <div className={css.map}>
        {BAR_FIELDS.map((field) => (
          <FieldChoice
            key={field}
            field={field}
            columns={columns}
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
      {missing.length > 0 ? (
        <p role="alert" className="refusal">
          Choose the column for {missing.join(', ')}.
        </p>
      ) : (
        !opened.headed && (
          <p role="status" className="warning">
            The file does not name its columns: they were told by what they hold. Check the lines below.
          </p>
        )
      )}
      <FirstLines columns={columns} map={map} lines={read?.first ?? opened.first} named={opened.headed} />
      {(problem || unread) && (
        <p role="alert" className="refusal">
          {problem || unread}
        </p>
      )}
      {read?.mixed && (
        <p role="alert" className="refusal">
          The files hold bars of different lengths ({read.mixed.join(', ')}). Bring them as one set for each.
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
      {read && read.bad.length > 0 && <Bad bad={read.bad} many={names.length > 1} />}
    </>
  )
}

const NEEDED: readonly BarField[] = ['date', 'open', 'high', 'low', 'close']

/** What each field is called where its name alone does not tell. */
const LABELS: Partial<Record<BarField, string>> = {
  date: 'date (and time)',
  time: 'time of day, if apart',
  uptrades: 'up trades',
  downtrades: 'down trades',
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
  const needed = NEEDED.includes(field)
  return (
    <Select
      label={LABELS[field] ?? field}
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
    { id: 'first', header: 'From', value: (s) => s.bars.time[0], cell: (s) => sayBar(s.bars, 0) },
    {
      id: 'last',
      header: 'To',
      value: (s) => s.bars.time[s.bars.time.length - 1],
      cell: (s) => sayBar(s.bars, s.bars.time.length - 1),
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

function Bad({ bad, many }: { bad: (BadLine & { file: string })[]; many: boolean }) {
  const columns: Column<(typeof bad)[number]>[] = [
    ...(many ? [{ id: 'file', header: 'File', value: (b: (typeof bad)[number]) => b.file }] : []),
    { id: 'line', header: 'Line', right: true, value: (b) => b.line },
    { id: 'reason', header: 'Why it is left out', value: (b) => sayLine(b.problem) },
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
