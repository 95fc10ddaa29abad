'use client'
import { Button, Modal } from '@mantine/core'
import { useLiveQuery } from 'dexie-react-hooks'
import { useRouter, useSearchParams } from 'next/navigation'
import { useEffect, useState } from 'react'
import { planIssues } from '@/core/plans/check'
import { carriedBarsText } from '@/core/plans/carriedBars'
import { differences, differenceText } from '@/core/plans/difference'
import { type Plan } from '@/core/plans/document'
import { readPlanFile } from '@/core/plans/memory'
import { addMemory, hasBegun, memoryFrom, takeMemory } from '@/store/planMemory'
import { bound } from '@/core/plans/inputs'
import { letGoOfPlaces } from '@/core/plans/places'
import { namedBy } from '@/core/plans/drawn'
import { db, type KeptPlan, sayStorageError } from '@/store/db'
import { versionFor } from '@/store/plans'
import { useWhere } from '../link/connection'
import { useBroker, useServices, useSession } from '../link/LinkProvider'
import { type BegunRow } from '../services/begun'
import { useRuns } from '../services/useRuns'
import { useInOtherTabs } from '../services/useBegun'
import { type RunHere } from '../services/runHere'
import { download } from '../shell/download'
import { useFiredText } from './useFiredText'
import page from '../shell/Page.module.css'
import { tell, tellProblem } from '../shell/tell'
import { tellUndo } from '../shell/tellUndo'
import { planFileText } from '@/core/plans/file'
import { ArmSummary } from './ArmSummary'
import { Clauses } from './Clauses'
import { Elsewhere } from './Elsewhere'
import { endElsewhere, useElsewhere } from './runnerHere'
import { Evidence } from './Evidence'
import { EXAMPLES } from './examples'
import { missText } from '@/core/engine/nearestMiss'
import { resultText } from '@/core/engine/say'
import { FunnelLine } from './FunnelLine'
import { HandLine } from './HandLine'
import { Heard } from './Heard'
import css from './Plan.module.css'
import { startPlan, usePlanPage } from './planStore'
import { SeenBook } from './SeenBook'
import { useCarrying } from './useCarrying'
import { useSettled } from './useSettled'
import { useDraft } from './useDraft'
import { WaitingFor } from './Waiting'

/** Plans: those that run here, those that are drafts, and the one that is read. */
export function PlanPage() {
  const broker = useBroker()
  const kept = useLiveQuery(() => db.plans.orderBy('id').toArray())
  const runs = useRuns((s) => s.runs)
  const inTabs = useInOtherTabs()
  useAsked()
  const chosen = usePlanPage((s) => s.chosen)
  const setChosen = (id: string) => usePlanPage.setState({ chosen: id })
  const { data: elsewhere = [] } = useElsewhere()
  const there = elsewhere.find(({ id }) => `runner ${id}` === chosen)
  const shown = kept?.find(({ id }) => id === chosen) ?? kept?.[0]
  const add = (from: Plan) =>
    startPlan(from).catch((error: unknown) => tellProblem(new Error(sayStorageError(error))))
  const open = async (file: File) => {
    try {
      const read = readPlanFile(JSON.parse(await file.text()))
      if ('wrong' in read) throw new Error(read.wrong[0])
      if (!read.memory) return void (await add(read.plan))
      // It goes on under its own id: that is how its orders are known again.
      await takeMemory(read.memory, (await broker.whoami()).world.id)
      setChosen(read.plan.id)
    } catch (error) {
      tellProblem(new Error(`${file.name} is no plan: ${(error as Error).message.slice(0, 200)}`))
    }
  }
  return (
    <div className={`${page.page} ${css.page}`}>
      <nav className={css.list} aria-label="Plans">
        {(['armed', 'watching', 'idle', 'draft'] as const).map((state) => {
          const some = (kept ?? []).filter(
            ({ id }) => stateOf(runs[id] ?? inTabs.find((row) => row.plan.id === id)) === state,
          )
          return (
            some.length > 0 && (
              <div key={state}>
                <h2>{{ armed: 'Armed', watching: 'Watching', idle: 'Idle', draft: 'Drafts' }[state]}</h2>
                {some.map(({ id, plan }) => (
                  <button
                    key={id}
                    type="button"
                    aria-current={!there && id === shown?.id}
                    onClick={() => setChosen(id)}
                  >
                    {plan.name}{' '}
                    <span className="soft">
                      v{plan.version}
                      {inTabs.some((row) => row.plan.id === id) && ', in another tab'}
                    </span>
                  </button>
                ))}
              </div>
            )
          )
        })}
        {elsewhere.length > 0 && <h2>Command line</h2>}
        {elsewhere.map(({ id, lives }) => (
          <button
            key={id}
            type="button"
            aria-current={chosen === `runner ${id}`}
            onClick={() => setChosen(`runner ${id}`)}
          >
            {id} <span className="soft">{lives ? 'runs' : 'over'}</span>
          </button>
        ))}
        {EXAMPLES.map(([heading, some]) => (
          <details key={heading} open={kept?.length === 0}>
            <summary>New: {heading.toLowerCase()}</summary>
            {some.map((one) => (
              <button key={one.id} type="button" title={one.note} onClick={() => void add(one)}>
                + {one.name}
              </button>
            ))}
          </details>
        ))}
        <label style={{ padding: '5px 16px', display: 'block', cursor: 'pointer' }} className="soft">
          + from a file
          <input
            type="file"
            accept=".json"
            className="visually-hidden"
            onChange={(e) => e.currentTarget.files?.[0] && void open(e.currentTarget.files[0])}
          />
        </label>
      </nav>
      {there ? (
        <Elsewhere run={there} />
      ) : shown ? (
        <One key={shown.id} row={shown} run={runs[shown.id]} />
      ) : (
        <section className={page.main} aria-label="Plan">
          <p className={page.empty}>
            {kept ? 'There is no plan yet. Begin with an example on the left, and change it.' : 'asking …'}
          </p>
        </section>
      )}
    </div>
  )
}

/** The plan that the address asks for, as from the day rail. */
function useAsked() {
  const asked = useSearchParams().get('plan')
  const router = useRouter()
  useEffect(() => {
    if (!asked) return
    usePlanPage.setState({ chosen: asked })
    // So that it can be asked for once more.
    router.replace('/plan')
  }, [asked, router])
}

const stateOf = (run: Pick<RunHere, 'acts' | 'idle'> | undefined): 'armed' | 'watching' | 'idle' | 'draft' =>
  !run ? 'draft' : run.idle ? 'idle' : run.acts ? 'armed' : 'watching'

/** What happened to plans while no page was open to tell it. */
function WhileAway() {
  const { wentOn, trouble } = useRuns()
  return (
    <>
      {trouble && <p className="refusal">{trouble}</p>}
      {wentOn.length > 0 && (
        <p role="status">
          The tab was closed or loaded again: {[...new Set(wentOn)].join(', ')} went on here, with all that
          happened meanwhile.
        </p>
      )}
    </>
  )
}

function One({ row, run }: { row: KeptPlan; run?: RunHere }) {
  const { plans } = useServices()
  const { plan, keep } = useDraft(row)
  const forget = () =>
    void db.plans.delete(plan.id).then(
      () => tellUndo(`${plan.name} is thrown away.`, () => db.plans.put({ ...row, plan })),
      (error: unknown) => tellProblem(new Error(sayStorageError(error))),
    )
  const broker = useBroker()
  const where = useWhere()
  const zone = useSession().data?.zone
  const firedText = useFiredText()
  const [arming, setArming] = useState(false)
  const [beginning, setBeginning] = useState<'armed' | 'watched'>()
  const full = useCarrying(plan)
  const tried = useSettled(full)
  const waits = useRuns((s) => s.waiting).some((one) => one.row.plan.id === plan.id)
  const other = useInOtherTabs().find((row) => row.plan.id === plan.id)
  const issues = planIssues(full)
  const wrong = issues.some(({ is }) => is === 'error')
  const begin = async (acts: boolean, atOnce = false, ends?: string) => {
    setArming(false)
    setBeginning(acts ? 'armed' : 'watched')
    try {
      const brought = ends === undefined ? undefined : await endElsewhere(ends)
      if (brought) await addMemory(brought)
      const version = await versionFor(full)
      await plans.run(version, acts, atOnce)
      tell(acts ? `${version.name} is armed in ${where}.` : `${version.name} watches, and sends nothing.`)
    } catch (error) {
      tellProblem(error)
    } finally {
      setBeginning(undefined)
    }
  }
  const duplicate = () =>
    startPlan({ ...plan, name: `${plan.name.slice(0, 52)}, again` }).catch((error: unknown) =>
      tellProblem(new Error(sayStorageError(error))),
    )
  const begunOnce = useLiveQuery(() => hasBegun(plan.id), [plan.id])
  const withMemory = async () => {
    try {
      const made = await memoryFrom(full, (await broker.whoami()).world.id)
      download(`${plan.id}-memory.json`, planFileText(made), 'application/json')
    } catch (error) {
      tellProblem(error)
    }
  }
  const changes = run ? differences(run.plan, full) : []
  const changed = changes.length > 0
  return (
    <>
      <section className={page.main} aria-label="Plan">
        <h1>
          <input
            className="blank"
            aria-label="Name of the plan"
            style={{ font: 'inherit', fieldSizing: 'content', maxWidth: '100%' }}
            value={plan.name}
            maxLength={60}
            onChange={(e) => e.currentTarget.value && keep({ ...plan, name: e.currentTarget.value })}
          />
        </h1>
        <WhileAway />
        <p className="soft">
          {run
            ? `Version ${run.plan.version}, ${run.idle ? 'idle: it does nothing more' : run.acts ? `armed in ${run.where}: acts on its own` : `watching in ${run.where}: sends nothing`} ${run.fired === undefined ? '' : ` · ${firedText(run.fired, zone)}`} · runs in this tab, and goes on if it is loaded again`
            : other
              ? `${other.acts ? 'Armed' : 'Watching'} in ${whereOf(other)}, version ${other.plan.version}, in the tab that was opened at ${clock.format(other.tab)}; this tab takes over when that is closed`
              : beginning
                ? `Not ${beginning} yet: it is being begun in ${where} …`
                : waits
                  ? 'It does not run now: it waits for you, as the headline says'
                  : 'A draft: nothing looks at the market for it'}
          {changed && ' · changed since; the version that runs goes on until it is begun anew'}
        </p>
        {changed && (
          <ul className={css.changes} aria-label="Changed since">
            {changes.map((one) => (
              <li key={differenceText(one)}>{differenceText(one)}</li>
            ))}
          </ul>
        )}
        <Clauses
          plan={plan}
          issues={issues}
          carries={carriedBarsText(full)}
          change={(next) => keep(letGoOfPlaces(plan, next))}
        />
        {run?.idle && <p className="refusal">It stands still: {run.idle}</p>}
        <HandLine plan={plan.id} />
        {run && <WaitingFor run={run} />}
        {run?.result && <p style={{ margin: '8px 0 0' }}>It {resultText(run.result)}.</p>}
        {run && zone && (
          <p style={{ margin: '8px 0 0' }}>{missText(run.looked, run.entered, run.miss, zone)}</p>
        )}
        {run && <FunnelLine funnel={run.funnel} acts={run.acts} />}
        {run && <Heard acts={run.acts} said={run.said} />}
        <SeenBook plan={plan.id} />
        <div className={css.foot}>
          <span>{run ? `${run.acts ? 'armed' : 'watching'} · ${lookedAt(run.plan)}` : lookedAt(plan)}</span>
          <Button
            variant="subtle"
            onClick={() => download(`${plan.id}.json`, planFileText(full), 'application/json')}
          >
            File
          </Button>
          {!run && begunOnce && (
            <Button
              variant="subtle"
              title="With all that it has seen, to go on with it elsewhere"
              onClick={() => void withMemory()}
            >
              File with memory
            </Button>
          )}
          <Button variant="subtle" onClick={() => void duplicate()}>
            Duplicate
          </Button>
          {run ? (
            <>
              {changed && (
                <Button
                  variant="default"
                  disabled={wrong}
                  onClick={() => (run.acts ? setArming(true) : void begin(false))}
                >
                  Begin anew with the changes
                </Button>
              )}
              {!run.acts && (
                <Button disabled={wrong} onClick={() => setArming(true)}>
                  Arm in {where} …
                </Button>
              )}
              <Button variant="default" onClick={() => void plans.stop(plan.id).catch(tellProblem)}>
                Stop
              </Button>
            </>
          ) : (
            <>
              {other ? (
                <Button variant="default" onClick={() => void plans.stop(plan.id).catch(tellProblem)}>
                  Stop
                </Button>
              ) : (
                <Button variant="subtle" onClick={forget}>
                  Throw away
                </Button>
              )}
              <Button
                variant="default"
                disabled={wrong || beginning !== undefined}
                onClick={() => void begin(false)}
              >
                Watch
              </Button>
              <Button disabled={wrong || beginning !== undefined} onClick={() => setArming(true)}>
                Arm in {where} …
              </Button>
            </>
          )}
        </div>
      </section>
      <aside className={page.aside} aria-label="What each clause finds">
        <Evidence plan={tried} />
      </aside>
      <Modal opened={arming} onClose={() => setArming(false)} title={`Arm ${plan.name} in ${where}?`}>
        {arming && (
          <ArmSummary
            plan={bound(full)}
            leave={() => setArming(false)}
            arm={(now, ends) => void begin(true, now, ends)}
          />
        )}
      </Modal>
    </>
  )
}

const clock = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' })

const whereOf = ({ environment, account }: BegunRow): string =>
  `${environment === 'live' ? 'LIVE' : 'paper'} ${account}`

const securitiesOf = ({ sides }: Plan): number | undefined => {
  const known = sides.every(({ among }) => 'list' in among || 'pairs' in among)
  return known ? namedBy({ sides }).length : undefined
}

/** What it looks at, in a few words. */
function lookedAt(plan: Plan): string {
  const count = securitiesOf(plan)
  if (count === undefined) return 'looked up when it begins'
  return `${count} ${count === 1 ? 'security' : 'securities'}`
}
