'use client'
import { Button, Menu, Modal, Progress } from '@mantine/core'
import { useQueryClient } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { priceAsked } from '@/client'
import { writeCsv } from '@/core/formats/csv'
import { readSheet, SHEET_COLUMNS, SHEET_TEMPLATE } from '@/core/formats/orderSheet'
import { sayFailure } from '@/workers/say'
import { totalCost } from '@/core/orders/amounts'
import { useBroker, useMoney, useOrders, useServices } from '../link/LinkProvider'
import { useWhere } from '../link/connection'
import { type Order } from '@/core/orders/model'
import { download } from '../shell/download'
import { tellProblem } from '../shell/tell'
import { tellOffer } from '../shell/tellUndo'
import page from '../shell/Page.module.css'
import { DataTable } from '../table/DataTable'
import { exportTable, workbook } from '../table/exportTable'
import { FileDrop } from './FileDrop'
import { readFile } from './readFile'
import { type PricedRow, sheetColumns } from './columns'
import css from './Sheet.module.css'
import { changeInto } from './sentBefore'
import { renameRow, useSheet } from './sheetStore'
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
  const { sheet } = useServices()
  const queries = useQueryClient()
  const { file } = useSheet()
  const rows = usePriced()
  const [asking, setAsking] = useState(false)
  const { sending, ended } = useSheet()
  const orders = useOrders('all').data
  const mend = useMending(orders)
  const columns = useMemo(() => sheetColumns(orders ?? [], rows, mend), [orders, rows, mend])
  const ready = rows.filter((row) => row.drafted && row.state === 'ready')
  const wrong = rows.filter((row) => row.state === 'wrong').length
  const before = rows.filter((row) => row.state === 'before').length
  const differs = rows.filter((row) => row.state === 'differs').length
  const gone = rows.filter((row) => row.state === 'sent').length
  const total = totalCost(ready.map((row) => row.drafted!))
  const questions = ready.filter((row) => row.question)
  const send = () => {
    setAsking(false)
    useSheet.setState({ frozen: rows })
    void sheet
      .send(ready.map(({ line, drafted }) => ({ line, order: drafted!.order })))
      .then(() => queries.invalidateQueries())
      .finally(() => useSheet.setState({ frozen: undefined }))
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
            {differs > 0 && ` · ${differs} with another order under their id`}
          </span>
          {wrong > 0 && <span className="refusal"> · {wrong} with errors</span>}
          {file!.sheet.ignored.length > 0 && (
            <span className="soft"> · columns not read: {file!.sheet.ignored.join(', ')}</span>
          )}
        </div>
        <Button
          variant="default"
          disabled={sending !== undefined}
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
        {sending ? (
          <Button color="red" onClick={() => sheet.stop()} disabled={sending.isStopping}>
            {sending.isStopping ? 'Stopping …' : 'Stop sending'}
          </Button>
        ) : (
          <Button onClick={() => setAsking(true)} disabled={ready.length === 0}>
            {ready.length === 0 ? 'Nothing to send' : `Send ${ready.length} to ${where}`}
          </Button>
        )}
      </div>
      {sending && (
        <p role="status" className="soft">
          {sending.done} of {sending.total} rows are answered
          <Progress
            value={(100 * sending.done) / Math.max(1, sending.total)}
            size={3}
            // It jumps from count to count: gliding there would redraw the page all the time.
            transitionDuration={0}
            aria-label="Sending"
          />
        </p>
      )}
      {ended && !sending && (
        <p role="status" className="warning">
          {ended}
        </p>
      )}
      <Modal
        opened={asking}
        onClose={() => setAsking(false)}
        title={`Send ${ready.length} ${ready.length === 1 ? 'row' : 'rows'} to ${where}?`}
      >
        <p>
          {ready.length === 1
            ? `It costs ${money(total)} and takes`
            : `Together they cost ${money(total)} and take`}{' '}
          about {secondsFor(ready.length)}. Sending goes on while you look at other sections, until you stop
          it.
        </p>
        {questions.length > 0 && (
          <ul className="warning">
            {questions.slice(0, 8).map((row) => (
              <li key={row.line}>
                Line {row.line}: {row.question}
              </li>
            ))}
            {questions.length > 8 && <li>and {questions.length - 8} more</li>}
          </ul>
        )}
        <div className={css.actions}>
          <Button variant="default" onClick={() => setAsking(false)}>
            Not yet
          </Button>
          <Button onClick={send} data-autofocus>
            {questions.length > 0 ? 'Send them all the same' : `Send ${ready.length}`}
          </Button>
        </div>
      </Modal>
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

/** Rows that are sent a second, about; a key may ask no faster in the long run. */
const PACE = 200

const secondsFor = (rows: number): string => {
  const seconds = Math.ceil(rows / PACE)
  return seconds <= 1
    ? 'a second'
    : seconds < 120
      ? `${seconds} seconds`
      : `${Math.ceil(seconds / 60)} minutes`
}

/** What mends a row under whose id another order stands. */
function useMending(orders: readonly Order[] | undefined) {
  const broker = useBroker()
  const queries = useQueryClient()
  return useMemo(
    () => ({
      change({ clOrdId, order: row }: PricedRow) {
        const order = orders?.find((one) => one.clOrdId === clOrdId || one.origClOrdId === clOrdId)
        if (!order || !row) return
        const change = changeInto(row, order)
        const replace = () => broker.replace(order.clOrdId, change).then(() => queries.invalidateQueries())
        priceAsked(broker, order, change)
          .then((question) =>
            question
              ? tellOffer(
                  `${question.sentence} Correct it, or change it if you mean it.`,
                  'Change it all the same',
                  replace,
                )
              : replace(),
          )
          .catch(tellProblem)
      },
      rename: ({ line, clOrdId = 'row' }: PricedRow) =>
        renameRow(line, `${clOrdId.slice(0, 60)}-${Date.now().toString(36).slice(-4)}`),
    }),
    [broker, queries, orders],
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
