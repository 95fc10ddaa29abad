import { join } from 'node:path'
import { type NextRequest, NextResponse } from 'next/server'
import { type Funnel, withTrace } from '@/core/engine/funnel'
import * as z from 'zod'
import { sayTrace } from '@/core/engine/say'
import { heartbeatOf, sessionRun, planIn, plansIn } from '@/runner/folder'
import { memoryIn } from '@/runner/remembered'
import { stopThere } from '@/runner/stopThere'
import { type ElsewhereRun } from '@/ui/plan/runnerHere'
import { type LookedAt, withLook } from '@/ui/services/looks'
import { saidOf } from '@/ui/services/planSays'
import { isOwnPage } from '../../ownPage'

export const dynamic = 'force-dynamic'

const MOST_SAID = 60
/** Bytes of a journal that are looked at: its end. */
const MOST_READ = 4 * 1024 * 1024

/** Plans that the command line runs, or has run, on this machine: read from its folder. Answers only pages of this application. */
export function GET(request: NextRequest) {
  if (!isOwnPage(request)) return notForOthers()
  const folder = plansFolder()
  return NextResponse.json(plansIn(folder).map((id) => runIn(id, join(folder, id))))
}

const plansFolder = (): string =>
  process.env.HERON_PLANS ?? join(/* turbopackIgnore: true */ process.cwd(), '.heron', 'plans')

const problem = (status: number, title: string, detail: string) =>
  NextResponse.json(
    { type: 'about:blank', title, status, detail },
    { status, headers: { 'Content-Type': 'application/problem+json' } },
  )

const notForOthers = () => problem(403, 'Not for others', 'This is for pages of this application.')

const Stop = z.strictObject({ stop: z.string().regex(/^[a-z0-9-]{1,40}$/) })

/** Ends a plan that the command line runs, so that it can go on in the page; answers with all that it remembers. */
export async function POST(request: NextRequest) {
  if (!isOwnPage(request)) return notForOthers()
  const asked = Stop.safeParse(await request.json().catch(() => undefined))
  if (!asked.success) return problem(400, 'Not understood', 'Give the id of the plan that shall end.')
  const { stop: id } = asked.data
  const folder = join(plansFolder(), id)
  if (!plansIn(plansFolder()).includes(id)) return problem(404, 'No such plan', `${id} has not run there.`)
  if (!(await stopThere(folder, 'armed in a page of the application')))
    return problem(409, 'It has not ended', `${id} has not ended in half a minute: it may still be sending.`)
  return NextResponse.json(memoryIn(folder) ?? null)
}

function runIn(id: string, folder: string): ElsewhereRun {
  const lines = sessionRun(folder, MOST_READ)
  const beat = heartbeatOf(folder)
  let funnel: Funnel = {}
  let looks: readonly LookedAt[] = []
  for (const one of lines) {
    if (one.is !== 'trace') continue
    funnel = withTrace(funnel, one.trace)
    looks = withLook(looks, Date.parse(one.market), sayTrace(one.trace))
  }
  const said = lines.flatMap((one) => saidOf(one, Date.parse(one.market)) ?? [])
  return {
    id,
    version: beat?.version ?? 0,
    acts: lines.some((one) => (one.is === 'intent' && one.sends) || (one.is === 'started' && one.acts)),
    lives: beat?.lives === true,
    ...(beat ? { wall: beat.wall, state: beat.state, worldId: beat.worldId, account: beat.account } : {}),
    plan: planIn(folder),
    funnel,
    looks,
    held: lines.flatMap((one) => (one.is === 'result' ? [one.held] : [])).at(-1) ?? {},
    said: said.slice(-MOST_SAID).reverse(),
  }
}
