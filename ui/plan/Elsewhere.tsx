import page from '../shell/Page.module.css'
import { type ElsewhereRun } from './runnerHere'
import { FunnelLine } from './FunnelLine'
import { Heard } from './Heard'

/** A plan that the command line runs on this machine: what its folder tells, as of one that runs here. */
export function Elsewhere({ run }: { run: ElsewhereRun }) {
  const { id, version, acts, lives, state, wall, funnel, said } = run
  const how = lives
    ? `${state}: ${acts ? 'acts on its own' : 'sends nothing'}`
    : state === 'stopped'
      ? 'stopped'
      : `gave its last sign of life at ${wall ?? 'no time'}: it has died`
  return (
    <section className={page.main} aria-label="Plan">
      <h1>{id}</h1>
      <p className={lives || state === 'stopped' ? 'soft' : 'refusal'}>
        Version {version}, run by the command line on this machine; {how}. Plans on other machines cannot be
        seen from here.
      </p>
      <FunnelLine funnel={funnel} acts={acts} />
      <Heard acts={acts} said={said} />
    </section>
  )
}
