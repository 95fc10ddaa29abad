'use client'
import { Button, Modal } from '@mantine/core'
import { useLiveQuery } from 'dexie-react-hooks'
import { useState } from 'react'
import { planIssues } from '@/core/plans/check'
import { differences, differenceText } from '@/core/plans/difference'
import { Plan } from '@/core/plans/document'
import fastOverSlow from '@/plans/fast-over-slow.json'
import turningAverages from '@/plans/turning-averages.json'
import { db, sayStorageError } from '@/store/db'
import { freshPlanId, keepPlan, versionFor } from '@/store/plans'
import { useWhere } from '../link/connection'
import { useMoney, useServices, useSession } from '../link/LinkProvider'
import { type RunHere, useRuns } from '../services/plans'
import { download } from '../shell/download'
import { clockText } from '../shell/marketTime'
import page from '../shell/Page.module.css'
import { tell, tellProblem } from '../shell/tell'
import { Clauses } from './Clauses'
import { Evidence } from './Evidence'
import css from './Plan.module.css'

const EXAMPLES = [fastOverSlow, turningAverages].map((one) => Plan.parse(one))

/** Plans: those that run here, those that are drafts, and the one that is read. */
export function PlanPage() {
  const kept = useLiveQuery(() => db.plans.orderBy('id').toArray())
  const runs = useRuns((s) => s.runs)
  const [chosen, setChosen] = useState<string>()
  const shown = kept?.find(({ id }) => id === chosen) ?? kept?.[0]
  const keep = (plan: Plan) =>
    keepPlan(plan).catch((error: unknown) => tellProblem(new Error(sayStorageError(error))))
  const add = async (from: Plan) => {
    const id = await freshPlanId(from.name)
    await keep({ ...from, id, version: 1 })
    setChosen(id)
  }
  const open = async (file: File) => {
    try {
      await add(Plan.parse(JSON.parse(await file.text())))
    } catch (error) {
      tellProblem(new Error(`${file.name} is no plan: ${(error as Error).message.slice(0, 200)}`))
    }
  }
  return (
    <div className={`${page.page} ${css.page}`}>
      <nav className={css.list} aria-label="Plans">
        {(['armed', 'watching', 'draft'] as const).map((state) => {
          const some = (kept ?? []).filter(({ id }) => stateOf(runs[id]) === state)
          return (
            some.length > 0 && (
              <div key={state}>
                <h2>{{ armed: 'Armed', watching: 'Watching', draft: 'Drafts' }[state]}</h2>
                {some.map(({ id, plan }) => (
                  <button
                    key={id}
                    type="button"
                    aria-current={id === shown?.id}
                    onClick={() => setChosen(id)}
                  >
                    {plan.name} <span className="soft">v{plan.version}</span>
                  </button>
                ))}
              </div>
            )
          )
        })}
        <h2>New</h2>
        {EXAMPLES.map((one) => (
          <button key={one.id} type="button" title={one.note} onClick={() => void add(one)}>
            + {one.name}
          </button>
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
      {shown ? (
        <One
          key={shown.id}
          plan={shown.plan}
          run={runs[shown.id]}
          keep={(plan) => void keep(plan)}
          forget={() => void db.plans.delete(shown.id)}
        />
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

const stateOf = (run: RunHere | undefined): 'armed' | 'watching' | 'draft' =>
  !run ? 'draft' : run.acts ? 'armed' : 'watching'

function One({
  plan,
  run,
  keep,
  forget,
}: {
  plan: Plan
  run?: RunHere
  keep(plan: Plan): void
  forget(): void
}) {
  const { plans } = useServices()
  const where = useWhere()
  const [arming, setArming] = useState(false)
  const wrong = planIssues(plan).some(({ is }) => is === 'error')
  const begin = async (acts: boolean) => {
    setArming(false)
    try {
      const version = await versionFor(plan)
      await plans.start(version, acts)
      tell(acts ? `${version.name} is armed in ${where}.` : `${version.name} watches, and sends nothing.`)
    } catch (error) {
      tellProblem(error)
    }
  }
  const changes = run ? differences(run.plan, plan) : []
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
        <p className="soft">
          {run
            ? `Version ${run.plan.version}, ${run.acts ? `armed in ${where}: acts on its own` : 'watching: sends nothing'} · runs here, and ends with this page`
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
        <Clauses plan={plan} change={keep} />
        {run && <Heard run={run} />}
        <div className={css.foot}>
          <span>
            {run
              ? `${run.counts.looked} looked at → ${run.counts.met} met If → ${run.counts.ordered} ${run.acts ? 'ordered' : 'would be ordered'}`
              : `${securitiesOf(plan)} ${securitiesOf(plan) === 1 ? 'security' : 'securities'}`}
          </span>
          <Button
            variant="subtle"
            onClick={() =>
              download(`${plan.id}.json`, `${JSON.stringify(plan, null, 2)}\n`, 'application/json')
            }
          >
            File
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
              <Button variant="default" onClick={() => void plans.stop(plan.id)}>
                Stop
              </Button>
            </>
          ) : (
            <>
              <Button variant="subtle" onClick={forget}>
                Throw away
              </Button>
              <Button variant="default" disabled={wrong} onClick={() => void begin(false)}>
                Watch
              </Button>
              <Button disabled={wrong} onClick={() => setArming(true)}>
                Arm in {where} …
              </Button>
            </>
          )}
        </div>
      </section>
      <aside className={page.aside} aria-label="What each clause finds">
        <Evidence plan={plan} />
      </aside>
      <Modal opened={arming} onClose={() => setArming(false)} title={`Arm ${plan.name} in ${where}?`}>
        <Summary plan={plan} />
        <div style={{ display: 'flex', justifyContent: 'flex-end', gap: 8, marginTop: 14 }}>
          <Button variant="default" onClick={() => setArming(false)}>
            Leave it
          </Button>
          <Button onClick={() => void begin(true)} data-autofocus>
            Arm in {where}
          </Button>
        </div>
      </Modal>
    </>
  )
}

const securitiesOf = ({ sides }: Plan): number => new Set(sides.flatMap((side) => side.among.list)).size

/** What could be sent in a day at most, as its own limits bound it. */
function Summary({ plan }: { plan: Plan }) {
  const money = useMoney()
  const { never } = plan
  const each = never.entriesPerSecurityAndDay
  const orders = Math.min(never.entriesPerDay ?? Infinity, each ? each * securitiesOf(plan) : Infinity)
  return (
    <ul style={{ margin: 0, paddingLeft: 18, display: 'grid', gap: 4 }}>
      <li>
        {orders === Infinity
          ? 'Nothing bounds how many entries it sends in a day.'
          : `At most ${orders} entries a day.`}
      </li>
      <li>
        {never.exposure === undefined
          ? 'Nothing but buying power bounds what it holds.'
          : `It holds at most ${money(never.exposure)} at once.`}
      </li>
      <li>
        {never.lossPerDay === undefined
          ? 'It goes on whatever it has lost in a day.'
          : `After a loss of ${money(never.lossPerDay)} in a day it enters no more.`}
      </li>
      <li>It waits for the next time that its condition begins.</li>
      <li>It runs in this page and ends with it. Stops and targets stay at the broker.</li>
    </ul>
  )
}

function Heard({ run }: { run: RunHere }) {
  const zone = useSession().data?.zone
  return (
    <>
      <h2 style={{ fontSize: 14 }}>{run.acts ? 'What it did' : 'What it would have done'}</h2>
      {run.said.length === 0 ? (
        <p className="soft">Nothing yet: the first bar since it began is not over.</p>
      ) : (
        <ol className={css.said} aria-label="What it did">
          {run.said.slice(0, 60).map((one, i) => (
            <li key={run.said.length - i}>
              <span className="soft mono">{clockText(new Date(one.at).toISOString(), true, zone)}</span>
              <span style={{ fontWeight: one.weighs ? 600 : undefined }}>{one.text}</span>
            </li>
          ))}
        </ol>
      )}
    </>
  )
}
