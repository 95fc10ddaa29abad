'use client'
import { useQueryClient } from '@tanstack/react-query'
import { AppLink } from '../shell/AppLink'
import { decimal, moneyText, priceText } from '@/core/market/money'
import { profitOf } from '@/core/orders/amounts'
import { allowsNext } from '@/core/orders/states'
import { isOption, underlyingOf } from '@/core/options/osi'
import { contractText } from '@/core/options/words'
import { type Order } from '@/core/orders/model'
import { type Position } from '@/core/orders/views'
import { useAccount, useBroker, useOf, useSecurities, useSession } from '../link/LinkProvider'
import { Change } from '../shell/Change'
import { clockText } from '../shell/marketTime'
import { tellProblem } from '../shell/tell'
import { type Column } from '../table/DataTable'
import { Approval } from './Approval'
import { Chain, chainText } from './Chain'
import { ChangeOrder } from './ChangeOrder'
import css from './Desk.module.css'
import { orderText } from './orderText'

/** Why an order is there, or why it was refused. */
const becauseText = (order: Order): string =>
  (order.approval === undefined ? undefined : `${order.approval}: waits until another key approves it`) ??
  order.text ??
  originText(order) ??
  exitText(order) ??
  (order.clOrdId.startsWith('sheet-')
    ? 'from a sheet'
    : order.clOrdId.startsWith('desk-')
      ? 'by hand'
      : 'from a script')

/** When something happened, by the clock of the home venue, by which the page tells time. */
function At({ iso }: { iso: string }) {
  return clockText(iso, true, useSession().data?.zone)
}

/** A price, with its currency where that is not the account's. */
function Native({ symbol, price }: { symbol: string; price: number }) {
  const security = useSecurities().data?.find((s) => s.symbol === underlyingOf(symbol))
  const account = useAccount().data
  if (!security || !account || security.currency === account.currency) return priceText(price)
  return moneyText(price, security.currency)
}

/** What led to an order, where its sender has said so. */
function originText({ origin }: Order): string | undefined {
  if (!origin) return undefined
  const { from, name = '', version, signal, row } = origin
  if (from === 'Hand') return 'by hand'
  if (from === 'SheetRow') return `row ${row ?? ''} of ${name || 'a sheet'}`
  return [from === 'Plan' ? 'plan' : 'script', name, version && `version ${version}`, signal]
    .filter(Boolean)
    .join(' ')
}

/** What a stop or a target belongs to, which the broker holds with it. */
const exitText = ({ role, parentOrderId }: Order): string | undefined =>
  parentOrderId !== undefined && (role === 'Stop' || role === 'Target')
    ? `the ${role.toLowerCase()} of its entry`
    : undefined

function CompanyName({ symbol }: { symbol: string }) {
  const name = useSecurities().data?.find((s) => s.symbol === symbol)?.name
  return <span className="soft">{isOption(symbol) ? contractText(symbol) : name}</span>
}

/** Opens the chart; of a contract that of its underlying. */
const SymbolLink = ({ symbol }: { symbol: string }) => (
  <AppLink
    href={`/look/${underlyingOf(symbol)}`}
    style={{ fontWeight: 600, textDecoration: 'none', whiteSpace: 'nowrap' }}
  >
    {underlyingOf(symbol)}
  </AppLink>
)

function Cancel({ order }: { order: Order }) {
  const broker = useBroker()
  const of = useOf()
  const queries = useQueryClient()
  const cancel = () =>
    broker
      .cancel(order.clOrdId)
      .catch(tellProblem)
      .finally(() => queries.invalidateQueries({ queryKey: [of, 'orders'] }))
  return (
    <button
      type="button"
      className={css.cancel}
      aria-label={`Cancel ${orderText(order)} ${order.symbol}`}
      onClick={(e) => {
        e.stopPropagation()
        void cancel()
      }}
    >
      cancel
    </button>
  )
}

export const positionColumns: Column<Position>[] = [
  { id: 'symbol', header: 'Symbol', value: (p) => p.symbol, cell: (p) => <SymbolLink symbol={p.symbol} /> },
  { id: 'name', header: 'Company', value: () => undefined, cell: (p) => <CompanyName symbol={p.symbol} /> },
  {
    id: 'quantity',
    header: 'Quantity',
    right: true,
    value: (p) => p.quantity,
    cell: (p) =>
      p.quantity === 0
        ? 'closed'
        : `${p.quantity > 0 ? 'long' : 'short'} ${decimal(Math.abs(p.quantity), 0)}`,
  },
  {
    id: 'avgPx',
    header: 'Average',
    right: true,
    value: (p) => p.avgPx || undefined,
    cell: (p) => (p.quantity === 0 ? '' : <Native symbol={p.symbol} price={p.avgPx} />),
  },
  {
    id: 'last',
    header: 'Last',
    right: true,
    value: (p) => p.last,
    cell: (p) => <Native symbol={p.symbol} price={p.last} />,
  },
  {
    id: 'profit',
    header: 'Profit',
    right: true,
    value: profitOf,
    cell: (p) => <Change value={profitOf(p)} />,
  },
  {
    id: 'exits',
    header: 'Targets / stops',
    right: true,
    value: exitsText,
    cell: (p) =>
      (['Target', 'Stop'] as const).map((role) => {
        const own = p.exits.filter((one) => one.role === role)
        return (
          own.length > 0 && (
            <span key={role} style={{ display: 'block', whiteSpace: 'nowrap' }}>
              <span className="soft">{role.toLowerCase()}</span> {levelsText(p, own)}
            </span>
          )
        )
      }),
  },
  {
    id: 'lives',
    header: 'Stop lives',
    value: (p) => (p.quantity === 0 ? '' : p.withoutStop === 0 ? 'at the broker' : bareText(p)),
    cell: (p) =>
      p.quantity === 0 ? (
        ''
      ) : p.withoutStop === 0 ? (
        <span className="soft">at the broker</span>
      ) : (
        <span className="warning">{bareText(p)}</span>
      ),
  },
]

/** "12.40 for 60, 12.10 for 40"; the shares are left out of one that is for all of it. */
const levelsText = ({ quantity }: Position, exits: Position['exits']): string =>
  exits
    .map(({ price, quantity: many }) =>
      many === Math.abs(quantity) ? priceText(price) : `${priceText(price)} for ${decimal(many, 0)}`,
    )
    .join(', ')

function exitsText(position: Position): string | undefined {
  const parts = (['Target', 'Stop'] as const).flatMap((role) => {
    const own = position.exits.filter((one) => one.role === role)
    return own.length > 0 ? [`${role.toLowerCase()} ${levelsText(position, own)}`] : []
  })
  return parts.length > 0 ? parts.join('; ') : undefined
}

const bareText = ({ quantity, withoutStop }: Position): string =>
  withoutStop === Math.abs(quantity) ? 'no stop' : `${decimal(withoutStop, 0)} without a stop`

export const orderColumns: Column<Order>[] = [
  { id: 'time', header: 'Time', value: (o) => o.enteredTime, cell: (o) => <At iso={o.enteredTime} /> },
  { id: 'symbol', header: 'Symbol', value: (o) => o.symbol, cell: (o) => <SymbolLink symbol={o.symbol} /> },
  {
    id: 'order',
    header: 'Order',
    value: (o) => (isOption(o.symbol) ? `${orderText(o)}, ${contractText(o.symbol)}` : orderText(o)),
  },
  { id: 'chain', header: 'What became of it', value: chainText, cell: (o) => <Chain order={o} /> },
  {
    id: 'because',
    header: 'Because',
    value: becauseText,
    cell: (o) => <span className="soft">{becauseText(o)}</span>,
  },
  {
    id: 'cancel',
    header: '',
    value: () => undefined,
    cell: (o) => {
      const { cancel, replace } = allowsNext(o)
      return (
        <span className={css.acts}>
          {o.approval !== undefined && <Approval order={o} />}
          {replace.some((field) => field !== 'timeInForce') && <ChangeOrder order={o} />}
          {cancel && <Cancel order={o} />}
        </span>
      )
    },
  },
]

/** An order as a file takes it: every field on its own, by its FIX name. */
export const orderFileColumns: Column<Order>[] = (
  [
    'enteredTime',
    'symbol',
    'side',
    'orderQty',
    'ordType',
    'price',
    'stopPx',
    'timeInForce',
    'role',
    'ordStatus',
    'cumQty',
    'leavesQty',
    'avgPx',
    'clOrdId',
    'origClOrdId',
    'orderId',
    'text',
  ] as const
).map((field) => ({ id: field, header: field, value: (order: Order) => order[field] }))

/** One fill. */
export interface Execution {
  execId: string
  at: string
  symbol: string
  side: string
  lastQty: number
  lastPx: number
  commission: number
  clOrdId: string
}

/** Every fill of the orders, newest first. */
export const executionsOf = (orders: readonly Order[]): Execution[] =>
  orders
    .filter(({ role }) => role !== 'Split')
    .flatMap((o) =>
      o.chain
        .filter((step) => step.execType === 'Trade')
        .map((step) => ({
          execId: step.execId,
          at: step.at,
          symbol: o.symbol,
          side: o.side,
          lastQty: step.lastQty!,
          lastPx: step.lastPx!,
          commission: step.commission ?? 0,
          clOrdId: o.clOrdId,
        })),
    )
    .sort((a, b) =>
      a.at < b.at ? 1 : a.at > b.at ? -1 : Number(b.execId.slice(1)) - Number(a.execId.slice(1)),
    )

export const executionColumns: Column<Execution>[] = [
  { id: 'time', header: 'Time', value: (e) => e.at, cell: (e) => <At iso={e.at} /> },
  { id: 'symbol', header: 'Symbol', value: (e) => e.symbol, cell: (e) => <strong>{e.symbol}</strong> },
  { id: 'side', header: 'Side', value: (e) => e.side },
  { id: 'qty', header: 'Quantity', right: true, value: (e) => e.lastQty, cell: (e) => decimal(e.lastQty, 0) },
  { id: 'px', header: 'Price', right: true, value: (e) => e.lastPx, cell: (e) => priceText(e.lastPx) },
  {
    id: 'commission',
    header: 'Commission',
    right: true,
    value: (e) => e.commission,
    cell: (e) => decimal(e.commission, 3),
  },
  {
    id: 'id',
    header: 'Client order id',
    value: (e) => e.clOrdId,
    cell: (e) => <span className="soft mono">{e.clOrdId}</span>,
  },
]
