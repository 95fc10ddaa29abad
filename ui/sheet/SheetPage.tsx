'use client'
import { Button, Menu, Progress } from '@mantine/core'
import { useQueryClient } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { writeCsv } from '@/core/formats/csv'
import { readSheet, SHEET_COLUMNS, SHEET_TEMPLATE } from '@/core/formats/orderSheet'
import { sayFailure } from '@/workers/say'
import { totalCost } from '@/core/orders/amounts'
import { useBroker, useMoney, useOrders } from '../link/LinkProvider'
import { useWhere } from '../link/connection'
import { BrokerProblem, unreachable } from '@/client'
import { download } from '../shell/download'
import page from '../shell/Page.module.css'
import { DataTable } from '../table/DataTable'
import { exportTable, workbook } from '../table/exportTable'
import { FileDrop } from './FileDrop'
import { readFile } from './readFile'
import { type PricedRow, sheetColumns } from './columns'
import css from './Sheet.module.css'
import { useSheet } from './sheetStore'
import { usePriced } from './usePriced'

const XLSX = 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'

async function take(files: File[]): Promise<void> {
  const [file] = files
  if (!file) return
  try {
    useSheet.setState({
      file: { name: file.name, sheet: readSheet(await readFile(file)) },
      problem: '',
      sent: {},
    })
  } catch (error) {
    // What was in view stays: a file that cannot be read takes nothing away.
    useSheet.setState({ problem: `${file.name}: ${sayFailure(error)}` })
  }
}

/** Orders from a spreadsheet: read, checked and priced here, sent only when told to. */
export function SheetPage() {
  const { file, problem } = useSheet()
  return (
    <div className={page.page}>
      <section className={page.main} aria-label="Orders from a spreadsheet">
        {problem && (
          <p role="alert" className="refusal">
            {problem}
          </p>
        )}
        {file ? (
          <Preview />
        ) : (
          <>
            <h1>Orders from a spreadsheet</h1>
            <FileDrop accept=".csv,.xlsx,text/csv" onFiles={take} button="Choose a file">
              <span className="serif" style={{ fontSize: 17 }}>
                Drop a CSV or XLSX file here, one row an order.
              </span>
              <span className="soft">Every row is checked and priced before anything is sent.</span>
            </FileDrop>
          </>
        )}
      </section>
      <aside className={page.aside} aria-label="How the file is written">
        <HowTo />
      </aside>
    </div>
  )
}

function Preview() {
  const where = useWhere()
  const money = useMoney()
  const broker = useBroker()
  const queries = useQueryClient()
  const { file, sent } = useSheet()
  const rows = usePriced()
  const [sending, setSending] = useState(false)
  const orders = useOrders('all').data
  const columns = useMemo(() => sheetColumns(orders ?? [], rows), [orders, rows])
  const ready = rows.filter((row) => row.drafted && row.state === 'ready')
  const wrong = rows.filter((row) => row.state === 'wrong').length
  const before = rows.filter((row) => row.state === 'before').length
  const gone = rows.filter((row) => row.state === 'sent').length
  const done = Object.values(sent).filter((s) => s.is !== 'sending').length
  const total = totalCost(ready.map((row) => row.drafted!))

  const send = async () => {
    setSending(true)
    const note = (line: number, what: (typeof sent)[number]) =>
      useSheet.setState((s) => ({ sent: { ...s.sent, [line]: what } }))
    for (const row of ready) {
      note(row.line, { is: 'sending' })
      try {
        await broker.send(row.drafted!.order)
        note(row.line, { is: 'sent' })
      } catch (error) {
        const refused = error instanceof BrokerProblem ? error : unreachable()
        note(
          row.line,
          refused.kind === 'duplicate-client-order-id'
            ? { is: 'before' }
            : { is: 'refused', problem: refused },
        )
        // Nobody knows whether an order arrived that was not answered; its id keeps it from being doubled.
        if (refused.kind === 'unreachable') break
      }
    }
    await queries.invalidateQueries()
    setSending(false)
  }

  return (
    <>
      <div className={page.bar}>
        <div>
          <h1>{file!.name}</h1>
          <span className="soft">
            {rows.length} rows · {ready.length} ready{ready.length > 0 && `, costing ${money(total)}`}
            {gone > 0 && ` · ${gone} sent`}
            {before > 0 && ` · ${before} sent before`}
          </span>
          {wrong > 0 && <span className="refusal"> · {wrong} with errors</span>}
          {file!.sheet.ignored.length > 0 && (
            <span className="soft"> · columns not read: {file!.sheet.ignored.join(', ')}</span>
          )}
        </div>
        <Button
          variant="default"
          disabled={sending}
          onClick={() => useSheet.setState({ file: undefined, sent: {}, problem: '' })}
        >
          Another file
        </Button>
        <Menu position="bottom-end">
          <Menu.Target>
            <Button variant="default">Export</Button>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Item onClick={() => exportTable('sheet', 'csv', rows, columns)}>CSV</Menu.Item>
            <Menu.Item onClick={() => exportTable('sheet', 'xlsx', rows, columns)}>XLSX</Menu.Item>
          </Menu.Dropdown>
        </Menu>
        <Button onClick={send} disabled={sending || ready.length === 0}>
          {ready.length === 0 ? 'Nothing to send' : `Send ${ready.length} to ${where}`}
        </Button>
      </div>
      {sending && (
        <Progress value={(100 * done) / Math.max(1, ready.length + done)} size={3} aria-label="Sending" />
      )}
      {rows.length > 0 ? (
        <DataTable<PricedRow>
          label="Rows of the file"
          wrap
          rows={rows}
          columns={columns}
          idOf={(row) => String(row.line)}
        />
      ) : (
        <div className={page.empty}>The file has a header and no rows.</div>
      )}
    </>
  )
}

const MEANINGS: [string, string][] = [
  ['symbol', 'OSPRY'],
  ['side', 'buy, sell, sell short'],
  ['quantity', '100 · 0.8% risk · 10% equity'],
  ['type', 'market (also when empty), limit, stop, stop limit'],
  ['price', 'of a limit or stop limit'],
  ['trigger', 'of a stop or stop limit'],
  ['good for', 'day (also when empty), GoodTillCancel, ImmediateOrCancel, FillOrKill'],
  ['stop', '3% · 40 ticks · $47.80, held at the broker'],
  ['target', 'the same; with both, one cancels the other'],
  ['id', 'yours, if you like; else the row makes it'],
  ['note', 'kept with the order'],
]

function HowTo() {
  const xlsx = async () =>
    download('orders-template.xlsx', await workbook('orders', [...SHEET_COLUMNS], SHEET_TEMPLATE), XLSX)
  return (
    <>
      <h2>The columns</h2>
      <dl className={css.columns}>
        {MEANINGS.map(([column, meaning]) => (
          <div key={column} style={{ display: 'contents' }}>
            <dt>{column}</dt>
            <dd>{meaning}</dd>
          </div>
        ))}
      </dl>
      <p className="soft" style={{ margin: '10px 0' }}>
        A row that was sent is never sent again: the same row is the same order. To order the same once more,
        give it a new id.
      </p>
      <h3>A template to fill in</h3>
      <div style={{ display: 'flex', gap: 8, marginTop: 6 }}>
        <Button
          variant="default"
          onClick={() =>
            download('orders-template.csv', writeCsv([...SHEET_COLUMNS], SHEET_TEMPLATE), 'text/csv')
          }
        >
          CSV
        </Button>
        <Button variant="default" onClick={xlsx}>
          XLSX
        </Button>
      </div>
    </>
  )
}
