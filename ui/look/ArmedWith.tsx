'use client'
import Link from 'next/link'
import { type Drawing } from '@/core/market/drawings'
import { differences, differenceText } from '@/core/plans/difference'
import { type Plan } from '@/core/plans/document'
import { withDrawings } from '@/core/plans/drawn'
import { sayStorageError } from '@/store/db'
import { versionWith } from '@/store/plans'
import { useServices, useSession } from '../link/LinkProvider'
import { useElsewhere } from '../plan/runnerHere'
import { useRuns } from '../services/useRuns'
import { type RunHere } from '../services/runHere'
import { useFiredText } from '../plan/useFiredText'
import { tell, tellProblem } from '../shell/tell'
import { InlineAction } from '../ticket/Inline'

/** What has moved here since a plan that runs was begun with it. */
function movedSince(plan: Plan, symbol: string, drawings: readonly Drawing[]): string[] {
  if (!plan.drawings?.[symbol]) return []
  return differences(plan, movedIn(plan, symbol, drawings)).flatMap((one) =>
    one.clause === 'Drawn' ? [differenceText(one)] : [],
  )
}

const movedIn = (plan: Plan, symbol: string, drawings: readonly Drawing[]): Plan =>
  withDrawings(plan, { ...plan.drawings, [symbol]: drawings })

/** Plans that run with a line as it stood before it was moved: they go on so until one press gives them the line as it stands. */
export function ArmedWith({ symbol, drawings }: { symbol: string; drawings: readonly Drawing[] }) {
  const { plans } = useServices()
  const runs = useRuns((s) => s.runs)
  const { data: elsewhere = [] } = useElsewhere()
  const takeOver = async ({ plan, acts }: RunHere) => {
    try {
      const version = await versionWith(movedIn(plan, symbol, drawings))
      await plans.run(version, acts)
      tell(`${plan.name} goes on with the line as it stands, as version ${version.version}.`)
    } catch (error) {
      tellProblem(error instanceof Error ? error : new Error(sayStorageError(error)))
    }
  }
  return (
    <>
      {Object.values(runs).map((run) => (
        <Moved key={run.plan.id} plan={run.plan} symbol={symbol} drawings={drawings}>
          <InlineAction label={`Use it as it stands in ${run.plan.name}`} onAct={() => void takeOver(run)}>
            use it as it stands
          </InlineAction>
        </Moved>
      ))}
      {elsewhere.map(
        ({ plan, lives }) =>
          plan &&
          lives && (
            <Moved key={`there ${plan.id}`} plan={plan} symbol={symbol} drawings={drawings}>
              <Link href={`/plan?plan=${plan.id}`}>It runs by the command line: begin it again there</Link>
            </Moved>
          ),
      )}
    </>
  )
}

function Moved({
  plan,
  symbol,
  drawings,
  children,
}: {
  plan: Plan
  symbol: string
  drawings: readonly Drawing[]
  children: React.ReactNode
}) {
  const moved = movedSince(plan, symbol, drawings)
  if (moved.length === 0) return null
  return (
    <p role="status" className="warning">
      {plan.name} goes on with what stood here when it was begun. {moved.join(' ')} {children}
    </p>
  )
}

/** What the plans at a drawing have come to: "armed", "fired 10:52". */
export function PlansAt({ symbol, name }: { symbol: string; name: string }) {
  const runs = useRuns((s) => s.runs)
  const zone = useSession().data?.zone
  const firedText = useFiredText()
  const own = Object.values(runs).filter(({ plan }) =>
    plan.drawings?.[symbol]?.some((drawing) => drawing.name === name),
  )
  return own.map(({ plan, acts, idle, fired }) => (
    <Link key={plan.id} href={`/plan?plan=${plan.id}`} className="soft" title={plan.name}>
      {fired !== undefined ? firedText(fired, zone) : idle ? 'idle' : acts ? 'armed' : 'watching'}
    </Link>
  ))
}
