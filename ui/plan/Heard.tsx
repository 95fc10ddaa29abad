import { useSession } from '../link/LinkProvider'
import { type Said } from '../services/planSays'
import { clockText } from '../shell/marketTime'
import css from './Plan.module.css'

const SHOWN = 60

/** What a plan did, or would have done, newest first. */
export function Heard({ acts, said }: { acts: boolean; said: readonly Said[] }) {
  const zone = useSession().data?.zone
  return (
    <>
      <h2 style={{ fontSize: 14 }}>{acts ? 'What it did' : 'What it would have done'}</h2>
      {said.length === 0 ? (
        <p className="soft">Nothing yet: the first bar since it began is not over.</p>
      ) : (
        <ol className={css.said} aria-label="What it did">
          {said.slice(0, SHOWN).map((one, i) => (
            <li key={said.length - i}>
              <span className="soft mono">{clockText(new Date(one.at).toISOString(), true, zone)}</span>
              <span style={{ fontWeight: one.weighs ? 600 : undefined }}>{one.text}</span>
            </li>
          ))}
        </ol>
      )}
    </>
  )
}
