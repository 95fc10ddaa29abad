import { Button, Checkbox } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { useLiveQuery } from 'dexie-react-hooks'
import { useState } from 'react'
import { type Plan } from '@/core/plans/document'
import { resultText } from '@/core/engine/say'
import { sentFor } from '@/core/plans/ids'
import { mostText } from '@/core/plans/most'
import { type Order } from '@/core/orders/model'
import { standsNow, standsText } from '@/runner/standsNow'
import { useAccountOf, useWhere } from '../link/connection'
import { useBroker, useMoney, useOf, useOrders } from '../link/LinkProvider'
import { begunRows } from '../services/begun'
import { armedHere, armedInTabs, armedThere, conflictsWith } from '../services/conflicts'
import { useRuns } from '../services/useRuns'
import { clockText } from '../shell/marketTime'
import { usePlanPage } from './planStore'
import { useElsewhere } from './runnerHere'

/** What arming a plan means, before it is done: what it could do at most, what it holds true now, and what is in the way. */
export function ArmSummary({
  plan,
  leave,
  arm,
}: {
  plan: Plan
  leave(): void
  arm(atOnce: boolean, ends?: string): void
}) {
  const where = useWhere()
  const money = useMoney()
  const working = useOrders('working').data
  const runs = useRuns((s) => s.runs)
  const [atOnce, setAtOnce] = useState(usePlanPage.getState().atOnce === plan.id)
  const broker = useBroker()
  const { data: now, error } = useQuery({
    queryKey: [useOf(), 'arming', JSON.stringify(plan)],
    queryFn: () => standsNow(broker, plan),
    structuralSharing: false,
  })
  const own = (working ?? []).filter(({ origin }) => sentFor(origin)?.planId === plan.id)
  const wrong = now?.wrong ?? []
  const { data: elsewhere = [] } = useElsewhere()
  const of = useAccountOf()
  const begun = (useLiveQuery(begunRows) ?? []).filter((row) => row.of === of)
  const here = Object.values(runs).filter((run) => run.of === of)
  const conflicts = now
    ? conflictsWith(plan, now.looksAt, [
        ...armedHere(here),
        ...armedInTabs(begun, runs),
        ...armedThere(elsewhere, now),
      ])
    : []
  // The same plan, run by the command line: one of the two is enough.
  const twin =
    now && elsewhere.find(({ id, lives, worldId }) => id === plan.id && lives && worldId === now.worldId)
  const strange = own.length > 0 && !begun.some((row) => row.plan.id === plan.id) && !twin
  return (
    <>
      <ul style={{ margin: 0, paddingLeft: 18, display: 'grid', gap: 4 }}>
        {mostText(plan, (amount) => money(amount)).map((line) => (
          <li key={line}>{line}</li>
        ))}
        {now ? (
          <>
            <li>{standsText(now)}</li>
            {now.odd.map((line) => (
              <li key={line} className="warning">
                {line}
              </li>
            ))}
          </>
        ) : error ? (
          <li className="refusal">It is not known what it would begin with: {error.message}</li>
        ) : (
          <li className="soft">asking whether its condition holds now …</li>
        )}
        {here
          .filter((run) => run.acts && run.plan.id !== plan.id)
          .map((run) => (
            <li key={run.plan.id}>
              Armed beside it: {run.plan.name} {run.result ? resultText(run.result) : 'holds nothing'}.{' '}
              {mostText(run.plan, (amount) => money(amount)).join(' ')}
            </li>
          ))}
        {strange && (
          <li className="warning">
            The broker has {own.length} working {own.length === 1 ? 'order' : 'orders'} of this plan that{' '}
            {own.length === 1 ? 'was' : 'were'} not sent from this page: {own.map(underText).join(', ')}. It
            may run elsewhere, where it cannot be ended from here.
          </li>
        )}
        {twin && (
          <li className="warning">
            The command line runs version {twin.version} of it on this machine ({twin.state}): that is ended
            first, and this goes on with what it has seen and done.
          </li>
        )}
        {[...wrong, ...conflicts].map((line) => (
          <li key={line} className="refusal">
            {line}
          </li>
        ))}
        <li>
          It runs in this tab. If the tab is loaded again it goes on; if it is closed the plan ends, and stops
          and targets stay at the broker.
        </li>
      </ul>
      {now && now.holds.length > 0 && (
        <Checkbox
          mt={10}
          size="xs"
          label="What holds now counts as beginning now"
          checked={atOnce}
          onChange={(e) => setAtOnce(e.currentTarget.checked)}
        />
      )}
      <div style={{ display: 'flex', justifyContent: 'flex-end', gap: 8, marginTop: 14 }}>
        <Button variant="default" onClick={leave}>
          Leave it
        </Button>
        <Button
          onClick={() => arm(atOnce, twin?.id)}
          disabled={error !== null || wrong.length + conflicts.length > 0}
          data-autofocus
        >
          Arm in {where}
        </Button>
      </div>
    </>
  )
}

/** A working order of the plan: "Buy 100 OSPRY Limit, sent at 10:31". */
const underText = ({ side, leavesQty, symbol, ordType, enteredTime }: Order): string =>
  `${side} ${leavesQty} ${symbol} ${ordType}, sent at ${clockText(enteredTime)}`
