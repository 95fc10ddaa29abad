import { join } from 'node:path'
import { type NextRequest, NextResponse } from 'next/server'
import { type Funnel, withTrace } from '@/core/engine/funnel'
import { heartbeatOf, lastRun, planIn, plansIn } from '@/runner/folder'
import { type ElsewhereRun } from '@/ui/plan/runnerHere'
import { saidOf } from '@/ui/services/planSays'
import { isOwnPage } from '../../ownPage'

export const dynamic = 'force-dynamic'

const MOST_SAID = 60
/** Bytes of a journal that are looked at: its end. */
const MOST_READ = 4 * 1024 * 1024

/** Plans that the command line runs, or has run, on this machine: read from its folder. Answers only pages of this application. */
export function GET(request: NextRequest) {
  if (!isOwnPage(request))
    return NextResponse.json(
      {
        type: 'about:blank',
        title: 'Not for others',
        status: 403,
        detail: 'This is for pages of this application.',
      },
      { status: 403, headers: { 'Content-Type': 'application/problem+json' } },
    )
  const folder = process.env.HERON_PLANS ?? join(/* turbopackIgnore: true */ process.cwd(), '.heron', 'plans')
  return NextResponse.json(plansIn(folder).map((id) => runIn(id, join(folder, id))))
}

function runIn(id: string, folder: string): ElsewhereRun {
  const lines = lastRun(folder, MOST_READ)
  const beat = heartbeatOf(folder)
  let funnel: Funnel = {}
  for (const one of lines) if (one.is === 'trace') funnel = withTrace(funnel, one.trace)
  const said = lines.flatMap((one) => saidOf(one, Date.parse(one.market)) ?? [])
  return {
    id,
    version: beat?.version ?? 0,
    acts: lines.some((one) => (one.is === 'intent' && one.sends) || (one.is === 'started' && one.acts)),
    lives: beat?.lives === true,
    ...(beat ? { wall: beat.wall, state: beat.state, worldId: beat.worldId, account: beat.account } : {}),
    plan: planIn(folder),
    funnel,
    said: said.slice(-MOST_SAID).reverse(),
  }
}
