import { SHEET_COLUMNS, type SheetColumn, type SheetRow } from '@/core/formats/orderSheet'
import { type CellProblem } from '@/core/formats/problems'
import { sayCell } from '@/core/formats/say'
import { decimal, dollars, priceText } from '@/core/market/money'
import { costOf } from '@/core/orders/amounts'
import { type Drafted, type OrderDraft } from '@/core/orders/draft'
import { type Order } from '@/core/orders/model'
import { Chain, chainText } from '../desk/Chain'
import { type Column } from '../table/DataTable'
import { InlineAction } from '../ticket/Inline'
import css from './Sheet.module.css'

/** A row with what it comes to and what became of it. */
export interface PricedRow {
  line: number
  cells: SheetRow['cells']
  errors: SheetRow['errors']
  clOrdId?: string
  state: 'wrong' | 'waiting' | 'ready' | 'sending' | 'sent' | 'before' | 'differs' | 'refused'
  why?: string
  drafted?: Drafted
  /** A question about its price: it is sent only when that was read. */
  question?: string
  /** Another order stands under its id: whether that can become what the row says. */
  mayChange?: boolean
  order?: OrderDraft
}

const STATE: Record<PricedRow['state'], string> = {
  wrong: 'will not be sent',
  waiting: 'being priced …',
  ready: 'ready',
  sending: 'sending …',
  sent: 'sent',
  before: 'sent before',
  differs: 'another order stands under this id',
  refused: 'refused',
}

/** A cell as it stands in the file; beneath it what is wrong with it, or what it comes to. */
function cell(column: SheetColumn, comesTo?: (row: PricedRow) => string): Column<PricedRow> {
  return {
    id: column,
    header: column,
    value: (row) => row.cells[column],
    cell: (row) => {
      const wrong = row.errors[column]
      const text = row.cells[column] || (wrong ? '—' : '')
      return wrong ? (
        <>
          <span className={css.wrong}>{text}</span>
          <span className={css.reason}>{sayCell(wrong)}</span>
        </>
      ) : (
        <>
          {text}
          {comesTo?.(row) && <span className={css.comesTo}>{comesTo(row)}</span>}
        </>
      )
    },
  }
}

/** "Buy 10 OSPRY Limit 5.00": what stands at the broker. */
const orderText = ({ side, orderQty, symbol, ordType, price, stopPx }: Order): string =>
  [side, decimal(orderQty, 0), symbol, ordType, priceText(stopPx ?? price)].filter(Boolean).join(' ')

/** A price that the cell does not already say. */
const otherThan = (cell: string | undefined, price: string): string =>
  cell?.replace('$', '').trim() === price ? '' : price

/** What is wrong with a row, each at its column. */
const saidErrors = (errors: SheetRow['errors']): string[] =>
  (Object.entries(errors) as [SheetColumn, CellProblem][]).map(
    ([column, wrong]) => `${column}: ${sayCell(wrong)}`,
  )

const NO_MEND = { change: () => undefined, rename: () => undefined }

export function sheetColumns(
  orders: readonly Order[],
  rows: readonly PricedRow[],
  mend: { change(row: PricedRow): void; rename(row: PricedRow): void } = NO_MEND,
): Column<PricedRow>[] {
  const byId = new Map<string, Order>()
  for (const order of orders)
    if (order.ordStatus !== 'Rejected')
      for (const id of [order.clOrdId, order.origClOrdId])
        if (id !== undefined && !byId.has(id)) byId.set(id, order)
  const orderOf = (row: PricedRow) => byId.get(row.clOrdId ?? '')
  const sharesOf = (row: PricedRow) => orderOf(row)?.orderQty ?? row.drafted?.order.orderQty
  const amountOf = (row: PricedRow) => {
    const order = orderOf(row)
    return order ? costOf(order) : row.drafted?.cost
  }
  /** Where the exit would lie, or once it was sent, where it does. */
  const exitOf = (row: PricedRow, role: 'stop' | 'target') => {
    const parent = orderOf(row)?.orderId
    const exit = parent && orders.find((o) => o.parentOrderId === parent && o.role.toLowerCase() === role)
    return exit ? (exit.stopPx ?? exit.price) : row.drafted?.parts[0]?.[role]?.price
  }
  const level = (role: 'stop' | 'target', header: string): Column<PricedRow> => ({
    id: `${role} price`,
    header,
    fileOnly: true,
    value: (row) => exitOf(row, role),
  })
  const shown = {
    quantity: (row: PricedRow) => {
      const shares = sharesOf(row)
      return shares === undefined || String(shares) === row.cells.quantity
        ? ''
        : `${decimal(shares, 0)} shares`
    },
    stop: (row: PricedRow) => otherThan(row.cells.stop, priceText(exitOf(row, 'stop'))),
    target: (row: PricedRow) => otherThan(row.cells.target, priceText(exitOf(row, 'target'))),
  }
  // Columns that no row of the file fills in would only take room.
  const used = SHEET_COLUMNS.slice(3, 10).filter((column) =>
    rows.some((row) => row.cells[column] || row.errors[column]),
  )
  return [
    { id: 'line', header: 'Line', right: true, value: (row) => row.line },
    cell('symbol'),
    cell('side'),
    cell('quantity', shown.quantity),
    ...used.map((column) => cell(column, column in shown ? shown[column as keyof typeof shown] : undefined)),
    { id: 'shares', header: 'Shares', fileOnly: true, value: sharesOf },
    {
      id: 'cost',
      header: 'Cost $',
      right: true,
      value: amountOf,
      cell: (row) => dollars(amountOf(row)).slice(1),
    },
    level('stop', 'Stop $'),
    level('target', 'Target $'),
    {
      id: 'state',
      header: 'State',
      value: (row) => {
        const order = orderOf(row)
        return order
          ? chainText(order)
          : [STATE[row.state], row.why, row.question, ...saidErrors(row.errors)].filter(Boolean).join('. ')
      },
      cell: (row) => {
        const order = orderOf(row)
        if (order && row.state === 'differs')
          return (
            <span className={css.state}>
              <span className="warning">
                Another order stands under this id: {orderText(order)}, <Chain order={order} />
              </span>
              <span className={css.reason}>
                {row.mayChange && (
                  <InlineAction label={`Change the order of line ${row.line}`} onAct={() => mend.change(row)}>
                    change the order
                  </InlineAction>
                )}{' '}
                <InlineAction label={`Give line ${row.line} a new id`} onAct={() => mend.rename(row)}>
                  a new id
                </InlineAction>
              </span>
            </span>
          )
        if (order) {
          return (
            <span className={css.state}>
              {row.state === 'before' && <span className="soft">sent before: </span>}
              <Chain order={order} />
            </span>
          )
        }
        return (
          <span
            className={`${css.state} ${
              row.state === 'wrong' || row.state === 'refused'
                ? 'refusal'
                : row.state === 'ready'
                  ? ''
                  : 'soft'
            }`}
          >
            {STATE[row.state]}
            {row.why && <span className={css.reason}>{row.why}</span>}
            {row.question && <span className={`${css.reason} warning`}>{row.question}</span>}
          </span>
        )
      },
    },
  ]
}
