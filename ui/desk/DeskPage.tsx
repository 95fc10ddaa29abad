'use client'
import { Button, Menu } from '@mantine/core'
import { useSearchParams } from 'next/navigation'
import { Suspense, useState } from 'react'
import { priceText } from '@/core/market/money'
import { isWorking, type Order } from '@/core/orders/model'
import { useAccount, useMoney, useOrders, usePositions, useSession } from '../link/LinkProvider'
import { spotlight } from '@mantine/spotlight'
import page from '../shell/Page.module.css'
import { Change } from '../shell/Change'
import { clockText } from '../shell/marketTime'
import { DataTable } from '../table/DataTable'
import { exportTable } from '../table/exportTable'
import { rulesText } from '../access/rulesText'
import { TicketPanel } from '../ticket/TicketPanel'
import { useTicket } from '../ticket/ticketStore'
import { executionColumns, executionsOf, orderColumns, orderFileColumns, positionColumns } from './columns'
import css from './Desk.module.css'
import { Ending } from './Ending'
import { Groups } from './Groups'
import { Ledger } from './Ledger'
import { Lots } from './Lots'
import { GatesPanel } from '../access/GatesPanel'
import { underlyingOf } from '@/core/options/osi'
import { securityText } from '@/core/options/words'

const SHOWN = {
  all: { text: 'all states', keep: () => true },
  working: { text: 'working', keep: (o: Order) => isWorking(o.ordStatus) },
  waiting: { text: 'waiting for something', keep: (o: Order) => /^Pending/.test(o.ordStatus) },
  filled: { text: 'filled', keep: (o: Order) => o.ordStatus === 'Filled' },
  ended: { text: 'ended', keep: (o: Order) => o.ordStatus === 'Canceled' || o.ordStatus === 'Expired' },
  refused: { text: 'refused', keep: (o: Order) => o.ordStatus === 'Rejected' },
} as const
const USUAL: readonly (keyof typeof SHOWN)[] = ['all', 'working', 'refused']

export function DeskPage() {
  return (
    <Suspense>
      <Desk />
    </Suspense>
  )
}

function Desk() {
  const asked = useSearchParams().get('order')
  const orders = useOrders().data
  const positions = usePositions().data
  const account = useAccount().data
  const money = useMoney()
  const ticket = useTicket((s) => s.ticket)
  const [shown, setShown] = useState<keyof typeof SHOWN>('all')
  const [view, setView] = useState<'orders' | 'executions'>('orders')
  const [marked, setMarked] = useState<string>()
  /** The position that is looked at by lot. */
  const [held, setHeld] = useState<string>()
  const selected = marked ?? orders?.find((o) => o.clOrdId === asked)?.orderId
  const visible = (orders ?? []).filter(SHOWN[shown].keep)
  // A state that no order is in is no choice, but for the usual ones.
  const counted = (Object.keys(SHOWN) as (keyof typeof SHOWN)[])
    .map((key) => [key, (orders ?? []).filter(SHOWN[key].keep).length] as const)
    .filter(([key, count]) => count > 0 || key === shown || USUAL.includes(key))
  const executions = executionsOf(orders ?? [])
  const exporting =
    view === 'orders'
      ? (form: 'csv' | 'xlsx') => exportTable('orders', form, visible, orderFileColumns)
      : (form: 'csv' | 'xlsx') => exportTable('executions', form, executions, executionColumns)
  return (
    <div className={page.page}>
      <section className={page.main} aria-label="Desk">
        <div className={css.title}>
          <h1>Positions</h1>
          {account && (
            <span className="soft">
              unrealised <Change value={account.unrealized} /> · taken today{' '}
              <Change value={account.realizedToday} /> · buying power {money(account.buyingPower, 0)}
            </span>
          )}
        </div>
        {positions && positions.length > 0 ? (
          <div className={css.block}>
            <DataTable
              label="Positions"
              rows={positions}
              columns={positionColumns}
              idOf={(p) => p.symbol}
              selected={held}
              onSelect={(p) => setHeld(held === p.symbol ? undefined : p.symbol)}
            />
          </div>
        ) : (
          <p className="soft">{positions ? 'Nothing is held.' : 'asking …'}</p>
        )}
        <Ending />
        <Groups />
        <Ledger />
        <div className={css.title}>
          <h1>{view === 'orders' ? 'Orders today' : 'Executions today'}</h1>
          <span className={css.filters}>
            {view === 'orders' ? (
              counted.map(([key, count]) => (
                <button key={key} type="button" aria-pressed={shown === key} onClick={() => setShown(key)}>
                  {SHOWN[key].text} {count}
                </button>
              ))
            ) : (
              <span className="soft">{executions.length} fills</span>
            )}
          </span>
          <span style={{ display: 'flex', gap: 8 }}>
            <Button variant="default" onClick={() => setView(view === 'orders' ? 'executions' : 'orders')}>
              {view === 'orders' ? 'Executions' : 'Orders'}
            </Button>
            <Menu position="bottom-end">
              <Menu.Target>
                <Button variant="default" disabled={(view === 'orders' ? visible : executions).length === 0}>
                  Export
                </Button>
              </Menu.Target>
              <Menu.Dropdown>
                <Menu.Item onClick={() => exporting('csv')}>CSV</Menu.Item>
                <Menu.Item onClick={() => exporting('xlsx')}>XLSX</Menu.Item>
              </Menu.Dropdown>
            </Menu>
          </span>
        </div>
        {view === 'executions' ? (
          <div className={`${css.block} ${css.orders}`}>
            {executions.length > 0 ? (
              <DataTable
                label="Executions"
                rows={executions}
                columns={executionColumns}
                idOf={(e) => e.execId}
              />
            ) : (
              <p className="soft">Nothing has traded today.</p>
            )}
          </div>
        ) : visible.length > 0 ? (
          <div className={`${css.block} ${css.orders}`}>
            <DataTable
              label="Orders"
              wrap
              rows={visible}
              columns={orderColumns}
              idOf={(o) => o.orderId}
              selected={selected}
              onSelect={(o) => setMarked(o.orderId)}
              onOpen={(o) => useTicket.getState().open(underlyingOf(o.symbol))}
            />
          </div>
        ) : (
          <div className={page.empty}>
            <span>
              {orders === undefined
                ? 'asking …'
                : shown === 'all'
                  ? 'No orders today.'
                  : `No ${SHOWN[shown].text} orders.`}
            </span>
            {orders && shown === 'all' && <Button onClick={spotlight.open}>Find something to order</Button>}
          </div>
        )}
      </section>
      <aside className={page.aside} aria-label="Order and account">
        {ticket ? (
          <TicketPanel />
        ) : (
          <AccountPanel order={orders?.find((o) => o.orderId === selected)} held={held} />
        )}
      </aside>
    </div>
  )
}

function AccountPanel({ order, held }: { order?: Order; held?: string }) {
  const [gates, setGates] = useState(false)
  const account = useAccount().data
  const money = useMoney()
  return (
    <>
      {held && <Lots symbol={held} />}
      {order && <Story order={order} />}
      <h2>{account ? account.account : 'Account'}</h2>
      {account && <p className="soft">{rulesText(account)}</p>}
      {account && (
        <dl className={css.account}>
          <dt>Equity</dt>
          <dd>{money(account.equity)}</dd>
          <dt>Cash</dt>
          <dd>
            {money(account.cash)}
            {account.settledCash !== account.cash && (
              <span className="soft"> · {money(account.settledCash)} settled</span>
            )}
          </dd>
          <dt>Buying power</dt>
          <dd>{money(account.buyingPower)}</dd>
          <dt>Margin held</dt>
          <dd>{money(account.marginHeld)}</dd>
          <dt>Kept for orders</dt>
          <dd>{money(account.keptForOrders)}</dd>
          {(account.currencyGain !== 0 || account.currencyRealizedToday !== 0) && (
            <>
              <dt>Of it by rates</dt>
              <dd>
                {money(account.currencyGain)}
                {account.currencyRealizedToday !== 0 && (
                  <span className="soft"> · {money(account.currencyRealizedToday)} taken today</span>
                )}
              </dd>
            </>
          )}
          <dt>Commission today</dt>
          <dd>{money(account.commissionToday)}</dd>
          <dt>As of</dt>
          <dd>{clockText(account.asOf, true)}</dd>
        </dl>
      )}
      <div style={{ display: 'flex', gap: 8 }}>
        <Button variant="default" onClick={spotlight.open}>
          New order …
        </Button>
        <Button variant="default" onClick={() => setGates(true)}>
          Gates{account && account.gates.length > 0 ? ` (${account.gates.length})` : ' …'}
        </Button>
      </div>
      <GatesPanel opened={gates} onClose={() => setGates(false)} />
    </>
  )
}

/** Everything that happened to one order, step by step. */
function Story({ order }: { order: Order }) {
  const zone = useSession().data?.zone
  return (
    <section aria-label="What became of it" style={{ marginBottom: 18 }}>
      <h2>
        {order.legs
          ? `${order.orderQty} ${order.symbol}, ${order.legs.length} legs`
          : `${order.side} ${order.orderQty} ${securityText(order.symbol)}`}
      </h2>
      <p className="soft mono" style={{ fontSize: 11.5, overflowWrap: 'anywhere' }}>
        {order.clOrdId}
      </p>
      <ul className={css.story}>
        {order.chain.map((step) => (
          <li key={step.execId}>
            <span className="soft">{clockText(step.at, true, zone)}</span>{' '}
            {step.execType === 'Trade'
              ? `${step.lastQty} at ${priceText(step.lastPx)}`
              : step.execType === 'TriggeredOrActivatedBySystem'
                ? 'set off'
                : step.execType}{' '}
            {step.execType === 'Trade' && <span className="soft">{step.ordStatus}</span>}
          </li>
        ))}
      </ul>
      {order.text && <p>{order.text}</p>}
    </section>
  )
}
