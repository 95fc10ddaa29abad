'use client'
import { Button, Checkbox, Modal, Text } from '@mantine/core'
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { type Book, wouldOpen } from '@/core/book/book'
import { isWorking } from '@/core/orders/model'
import { type StoodDown } from '@/core/orders/views'
import { underlyingOf } from '@/core/options/osi'
import { endElsewhere, useElsewhere } from '../plan/runnerHere'
import { useInOtherTabs } from '../services/useBegun'
import { InlineChoice } from '../ticket/Inline'
import { endPlanAt, isOf, type Place, type Scope, scopeKey, scopeText } from './standDownFrom'
import { useAccount, useBroker, useOrders, usePositions, useServices } from '../link/LinkProvider'
import { useRuns } from '../services/useRuns'
import { useAccountOf, useWhere } from '../link/connection'
import { kindText } from '../desk/orderText'
import { clockText } from './marketTime'
import css from './Shell.module.css'
import { tell, tellProblem } from './tell'

const count = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`

/** Has the account open nothing more until it is lifted; asks once and says what it will do. */
export function StandDown() {
  const from = useAccount().data?.stoodDown ?? []
  const [asking, setAsking] = useState(false)
  const close = () => setAsking(false)
  const stands = from.length > 0
  return (
    <>
      <button
        type="button"
        className={stands ? `${css.standDown} ${css.stoodDown}` : css.standDown}
        onClick={() => setAsking(true)}
      >
        {stands ? 'Stood down' : 'Stand down'}
      </button>
      <Modal opened={asking} onClose={close} title={stands ? 'Stood down' : 'Stand down'}>
        {stands && <Lift from={from} close={close} />}
        {/* From all there is nothing more to stand down from. */}
        {!from.some(({ symbol }) => symbol === undefined) && <Ask close={close} />}
      </Modal>
    </>
  )
}

/** What runs, where, and what each holds; the plans of other machines are not known here. */
function usePlans(): { id: string; name: string; place: Place; held: Readonly<Record<string, number>> }[] {
  const here = useRuns((s) => s.runs)
  const { data: elsewhere = [] } = useElsewhere()
  const of = useAccountOf()
  const tabs = useInOtherTabs().filter((row) => row.of === of && row.acts)
  const own = Object.values(here).filter((run) => run.of === of)
  return [
    ...own.map(({ plan, result }) => ({
      ...{ id: plan.id, name: plan.name, place: 'browser' as const, held: result?.held ?? {} },
    })),
    ...tabs.map(({ plan }) => ({ id: plan.id, name: plan.name, place: 'browser' as const, held: {} })),
    ...elsewhere
      .filter(({ lives }) => lives)
      .map(({ id, plan, held }) => ({ id, name: plan?.name ?? id, place: 'command line' as const, held })),
  ]
}

function Ask({ close }: { close(): void }) {
  const { broker, plans, sheet } = useServices()
  const known = usePlans()
  const running = known.filter(({ place }) => place === 'browser').length
  const where = useWhere()
  const queries = useQueryClient()
  const [scope, setScope] = useState<Scope>({ all: true })
  const orders = (useOrders('working').data ?? []).filter((o) => isWorking(o.ordStatus))
  const positions = (usePositions().data ?? []).filter((p) => p.quantity !== 0)
  const holdings = Object.fromEntries(positions.map((p) => [p.symbol, p])) as unknown as Book['holdings']
  const [flatten, setFlatten] = useState(false)
  const plan = 'plan' in scope ? known.find(({ id }) => id === scope.plan) : undefined
  const working = orders.filter((order) => isOf(scope, order))
  const held =
    'plan' in scope
      ? Object.keys(plan?.held ?? {})
      : positions.filter((p) => isOf(scope, { symbol: p.symbol })).map((p) => p.symbol)
  const ending = flatten && !plan ? working : working.filter((o) => wouldOpen({ holdings }, o))
  const staying = working.filter((o) => !ending.includes(o) && o.ordStatus !== 'PendingNew').length
  const standDown = async () => {
    try {
      const { done, stopped } = await down()
      tell(
        `Stood down: ${count(done.canceled.length, 'order')} canceled${flatten ? `, ${count(done.closing.length, 'position')} being closed` : ''}${stopped.length > 0 ? `; stopped: ${stopped.join(', ')}` : ''}.`,
      )
      for (const reason of done.left) tellProblem(new Error(reason))
      close()
      await queries.invalidateQueries()
    } catch (error) {
      tellProblem(error)
    }
  }
  const down = async () => {
    if (!('plan' in scope)) {
      sheet.stop('You stood down.')
      const done = await broker.standDown(flatten, 'symbol' in scope ? scope.symbol : undefined)
      // The broker refuses by now; plans that run here need not go on asking.
      return { done, stopped: 'all' in scope ? await plans.stopAll() : [] }
    }
    // A plan that is stopped sends nothing that would have to be taken back again.
    if (scope.place === 'browser') await plans.stop(scope.plan)
    else await endElsewhere(scope.plan)
    const done = await endPlanAt(broker, scope.plan, flatten ? (plan?.held ?? {}) : {})
    return { done, stopped: [scope.name] }
  }
  const scopes: Scope[] = [
    { all: true },
    ...known.map(({ id, name, place }) => ({ plan: id, name, place })),
    ...[...new Set([...positions, ...orders].map(({ symbol }) => underlyingOf(symbol)))]
      .sort()
      .map((symbol) => ({ symbol })),
  ]
  return (
    <>
      <Text>
        Stand down from{' '}
        <InlineChoice
          label="Stand down from"
          value={scopeKey(scope)}
          options={scopes.map((one) => [scopeKey(one), scopeText(one)] as const)}
          onChange={(key) => setScope(scopes.find((one) => scopeKey(one) === key) ?? { all: true })}
        />
        .
      </Text>
      <Text mt={8}>
        {'plan' in scope ? (
          <>
            {scope.name} is stopped, and its entries that still work are taken back. What it holds stays, with
            its stops and targets at the broker, unless you close it; other plans go on.
          </>
        ) : 'symbol' in scope ? (
          <>
            From now on the broker refuses orders of {where} that open something in {scope.symbol}, whoever
            sends them, until you lift it. Orders that close pass; plans go on with all else.
          </>
        ) : (
          <>
            From now on the broker refuses orders of {where} that open something, whoever sends them, until
            you lift it. Orders that close pass.
            {running > 0 &&
              ` ${count(running, 'plan')} that ${running === 1 ? 'runs' : 'run'} in this browser ${running === 1 ? 'is' : 'are'} stopped; of runners elsewhere this page knows nothing, and the broker refuses what they send.`}
          </>
        )}
      </Text>
      <Text mt={8}>
        {ending.length === 0
          ? 'No working order has to be canceled'
          : `This cancels ${count(ending.length, 'working order')}`}
        {staying > 0 && `; ${staying} that close or protect ${staying === 1 ? 'stays' : 'stay'}`}.
      </Text>
      {ending.length > 0 && (
        <ul className={css.plainList}>
          {ending.slice(0, 8).map((o) => (
            <li key={o.orderId}>
              {o.symbol}: {o.side} {o.leavesQty} {kindText(o)}
            </li>
          ))}
          {ending.length > 8 && <li>and {ending.length - 8} more</li>}
        </ul>
      )}
      <Checkbox
        mt={10}
        checked={flatten}
        onChange={(e) => setFlatten(e.currentTarget.checked)}
        label={
          held.length === 0
            ? 'Also close positions (none are held)'
            : `Also close ${count(held.length, 'position')} at the market, with their stops and targets: ${held
                .slice(0, 6)
                .join(', ')}${held.length > 6 ? ' …' : ''}`
        }
      />
      <div className={css.actions}>
        <Button variant="default" onClick={close} data-autofocus>
          Leave everything
        </Button>
        <Button color="red" onClick={standDown}>
          Stand down
        </Button>
      </div>
    </>
  )
}

function Lift({ from, close }: { from: readonly StoodDown[]; close(): void }) {
  const broker = useBroker()
  const queries = useQueryClient()
  const lift = async () => {
    try {
      for (const { symbol } of from) await broker.lift(symbol)
      tell('Lifted: orders are taken again.')
      close()
      await queries.invalidateQueries()
    } catch (error) {
      tellProblem(error)
    }
  }
  return (
    <>
      {from.map(({ symbol, since, by }) => (
        <Text key={symbol ?? ''}>
          Since {since.slice(0, 10)} {clockText(since)} orders that would open{' '}
          {symbol ? `a position in ${symbol}` : 'anything'} are refused; the key {by} did it. What closes
          passes.
        </Text>
      ))}
      <div className={css.actions}>
        <Button variant="default" onClick={close} data-autofocus>
          Leave it
        </Button>
        <Button onClick={lift}>Lift it</Button>
      </div>
    </>
  )
}
