'use client'
import { Button, Loader } from '@mantine/core'
import { useLiveQuery } from 'dexie-react-hooks'
import { DateTime } from 'luxon'
import { useRouter } from 'next/navigation'
import { useState } from 'react'
import { isWorkbook, isZip } from '@/core/formats/archive'
import { type ReadFile } from '@/core/formats/barFiles'
import { FileFailure } from '@/core/formats/problems'
import { db, type OwnData } from '@/store/db'
import { removeOwnData } from '@/store/own'
import { type Opened } from '@/workers/bars.protocol'
import { BarsReader } from '@/workers/barsReader'
import { sayFailure, sayWorkerProblem } from '@/workers/say'
import { chooseUniverse } from '../find/findStore'
import { useSecurities, useSession } from '../link/LinkProvider'
import page from '../shell/Page.module.css'
import { dateText } from '../shell/marketTime'
import { tell } from '../shell/tell'
import { FileDrop } from '../sheet/FileDrop'
import { readFile } from '../sheet/readFile'
import { type Column, DataTable } from '../table/DataTable'
import { Import } from './Import'
import { KeptBars } from './KeptBars'
import { Lists } from './Lists'
import { OwnFigures } from './OwnFigures'

/** Rows of one bars file; a million minute bars is about ten years. */
const BAR_ROWS = 1_000_000

/** Larger files are refused before they are read. */
const BAR_FILE_LIMIT = 64 * 1024 * 1024

/** A file as the worker takes it: text or an archive as it is, a workbook as the rows of its first sheet. Throws FileFailure. */
async function fileFor(file: File): Promise<File | ReadFile> {
  if (file.size > BAR_FILE_LIMIT)
    throw new FileFailure({ code: 'too_large', bytes: file.size, limit: BAR_FILE_LIMIT, unpacked: false })
  const head = new Uint8Array(await file.slice(0, 2).arrayBuffer())
  const old = head[0] === 0xd0 && head[1] === 0xcf
  const book = old || (isZip(head) && isWorkbook(new Uint8Array(await file.arrayBuffer())))
  return book ? { name: file.name, headed: true, grid: await readFile(file, BAR_ROWS) } : file
}

/** The data that there is: the market's, and the trader's own bars from CSV files. */
export function DataPage() {
  const [open, setOpen] = useState<{ reader: BarsReader; opened: Opened }>()
  const [opening, setOpening] = useState(false)
  const [problem, setProblem] = useState('')
  const take = async (chosen: File[]) => {
    setProblem('')
    setOpening(true)
    const reader = new BarsReader()
    try {
      const failed: string[] = []
      const files: (File | ReadFile)[] = []
      for (const file of chosen)
        await fileFor(file).then(
          (sound) => files.push(sound),
          (error: unknown) => failed.push(`${file.name}: ${sayFailure(error)}`),
        )
      const opened = await reader.open(files, BAR_ROWS)
      const unread = opened.failed.map((one) => `${one.file}: ${sayWorkerProblem(one.problem)}`)
      setProblem([...failed, ...unread].join(' '))
      if (opened.names.length > 0) setOpen({ reader, opened })
      else reader.close()
    } catch (error) {
      setProblem(sayFailure(error))
      reader.close()
    } finally {
      setOpening(false)
    }
  }
  const leave = () => {
    open?.reader.close()
    setOpen(undefined)
  }
  return (
    <div className={page.page}>
      <section className={page.main} aria-label="Data">
        <h1>{open ? 'Your own bars' : 'Data'}</h1>
        {problem && (
          <p role="alert" className="refusal">
            {problem}
          </p>
        )}
        {!open ? (
          <>
            <KeptBars />
            <h2>Your own bars</h2>
            <FileDrop
              accept=".csv,.txt,.tsv,.prn,.xlsx,.zip"
              multiple
              onFiles={take}
              button="Choose CSV files"
            >
              <span className="serif" style={{ fontSize: 17 }}>
                Drop files of bars here: one for each security, one with a symbol column, or a ZIP of many.
              </span>
              {opening && (
                <span role="status">
                  <Loader size={12} /> reading …
                </span>
              )}
              <span className="soft">
                CSV, text or a workbook, as other programs write them. Columns are found by their names, or by
                what they hold; you see how each line is read, and can correct it.
              </span>
            </FileDrop>
            <OwnSets />
            <Lists />
            <OwnFigures />
          </>
        ) : (
          <Import {...open} done={leave} />
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
      cell: (d) => DateTime.fromMillis(d.importedAt).setLocale('en').toFormat('d LLL yyyy, HH:mm'),
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
