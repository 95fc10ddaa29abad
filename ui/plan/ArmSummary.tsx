import { Button, Checkbox } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { decodeBars } from '@/core/formats/barsBinary'
import { openTable } from '@/core/market/barTable'
import { besidesNamed, besidesOf } from '@/core/engine/besides'
import { holdsNow } from '@/core/engine/evidence'
import { obstacles } from '@/core/engine/obstacles'
import { barsBefore } from '@/core/plans/barsBefore'
import { type Plan } from '@/core/plans/document'
import { contractsOf } from '@/core/plans/drawn'
import { sentFor } from '@/core/plans/ids'
import { mostText } from '@/core/plans/most'
import { knownAccount, listContracts } from '@/runner/connect'
import { universeOf } from '@/runner/universe'
import { useWhere } from '../link/connection'
import { useBroker, useMoney, useOf, useOrders } from '../link/LinkProvider'
import { armedHere, armedThere, conflictsWith } from '../services/conflicts'
import { useRuns } from '../services/plans'
import { useElsewhere } from './runnerHere'

/** What arming a plan means, before it is done: what it could do at most, what it holds true now, and what is in the way. */
export function ArmSummary({ plan, leave, arm }: { plan: Plan; leave(): void; arm(atOnce: boolean): void }) {
  const where = useWhere()
  const money = useMoney()
  const working = useOrders('working').data
  const runs = useRuns((s) => s.runs)
  const [atOnce, setAtOnce] = useState(false)
  const { data: now } = useNow(plan)
  const own = (working ?? []).filter(({ origin }) => sentFor(origin)?.planId === plan.id)
  const strange = own.length > 0 && !runs[plan.id]
  const wrong = now?.wrong ?? []
  const { data: elsewhere = [] } = useElsewhere()
  const conflicts = now
    ? conflictsWith(plan, now.looksAt, [...armedHere(Object.values(runs)), ...armedThere(elsewhere, now)])
    : []
  // The same plan, run by the command line: it would send the same orders under the same ids, and watch them twice.
  const twin =
    now && elsewhere.find(({ id, lives, worldId }) => id === plan.id && lives && worldId === now.worldId)
  return (
    <>
      <ul style={{ margin: 0, paddingLeft: 18, display: 'grid', gap: 4 }}>
        {mostText(plan, (amount) => money(amount)).map((line) => (
          <li key={line}>{line}</li>
        ))}
        {now ? (
          <li>
            Looks at {now.looksAt.length} {now.looksAt.length === 1 ? 'security' : 'securities'}.{' '}
            {now.holds.length === 0
              ? 'Its condition holds for none of them now: it waits for the next time that it begins.'
              : `Its condition holds now for ${now.holds.join(', ')}.`}
          </li>
        ) : (
          <li className="soft">asking whether its condition holds now …</li>
        )}
        {strange && (
          <li className="warning">
            The broker has {own.length} working orders of this plan that were not sent from this page: it may
            run elsewhere. End it there first.
          </li>
        )}
        {twin && (
          <li className="refusal">
            The command line runs version {twin.version} of it on this machine ({twin.state}). End that first.
          </li>
        )}
        {[...wrong, ...conflicts].map((line) => (
          <li key={line} className="refusal">
            {line}
          </li>
        ))}
        <li>It runs in this page and ends with it. Stops and targets stay at the broker.</li>
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
          onClick={() => arm(atOnce)}
          disabled={twin !== undefined || wrong.length + conflicts.length > 0}
          data-autofocus
        >
          Arm in {where}
        </Button>
      </div>
    </>
  )
}

/** What a plan looks at now, and for which of those its condition holds already. */
function useNow(plan: Plan) {
  const broker = useBroker()
  return useQuery({
    queryKey: [useOf(), 'arming', JSON.stringify(plan)],
    queryFn: async () => {
      const { shared, worldId, account } = await knownAccount(broker, [])
      await listContracts(broker, shared.listed, contractsOf(plan))
      const holds = new Set<string>()
      const looksAt = new Set<string>()
      for (const [at, side] of plan.sides.entries()) {
        const { symbols } = await universeOf(broker, side, shared)
        for (const symbol of symbols) looksAt.add(symbol)
        if (symbols.length === 0) continue
        const named = besidesNamed(side)
        const besides = symbols.flatMap((symbol) => [...besidesOf(side, named, symbol, shared.listed).keys()])
        if ('pairs' in side.among) for (const mate of besides) looksAt.add(mate)
        const asked = [...new Set([...symbols, ...besides])]
        const limit = barsBefore(side, asked.length)
        const set = openTable(decodeBars(await broker.bars(side.if.every, { symbols: asked, limit })))
        const others = new Map(set.symbols.map((symbol, i) => [symbol, set.bars[i]]))
        for (const symbol of symbols)
          if (holdsNow(plan, at, { bars: others.get(symbol)!, others }, shared.listed, symbol))
            holds.add(symbol)
      }
      return { looksAt: [...looksAt], holds: [...holds], wrong: obstacles(plan, shared), worldId, account }
    },
    structuralSharing: false,
  })
}
