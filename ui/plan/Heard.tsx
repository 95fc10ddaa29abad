import { useState } from 'react'
import { useSession } from '../link/LinkProvider'
import { type Said } from '../services/planSays'
import { clockText } from '../shell/marketTime'
import css from './Plan.module.css'

const SHOWN = 60
/** From so many lines on they can be searched. */
const MANY = 12

/** What a plan did, or would have done, newest first; of many those that hold every word that is looked for. */
export function Heard({ acts, said }: { acts: boolean; said: readonly Said[] }) {
  const zone = useSession().data?.zone
  const [sought, setSought] = useState('')
  const words = sought.toLowerCase().split(/\s+/).filter(Boolean)
  const timed = said.map((one) => ({
    ...one,
    time: clockText(new Date(one.at).toISOString(), true, zone),
  }))
  const found = timed.filter(({ time, text }) => {
    const line = `${time} ${text}`.toLowerCase()
    return words.every((word) => line.includes(word))
  })
  return (
    <>
      <h2 style={{ fontSize: 14 }}>{acts ? 'What it did' : 'What it would have done'}</h2>
      {said.length >= MANY && (
        <input
          className="blank"
          aria-label="Look for"
          placeholder="a security, a time, a clause …"
          style={{ width: 260, fontSize: 13 }}
          value={sought}
          onChange={(e) => setSought(e.currentTarget.value)}
        />
      )}
      {found.length === 0 ? (
        <p className="soft">
          {said.length === 0
            ? 'Nothing yet: the first bar since it began is not over.'
            : `Of ${said.length} lines none has “${sought}” in it.`}
        </p>
      ) : (
        <ol className={css.said} aria-label="What it did">
          {found.slice(0, SHOWN).map((one, i) => (
            <li key={found.length - i}>
              <span className="soft mono">{one.time}</span>
              <span style={{ fontWeight: one.weighs ? 600 : undefined }}>{one.text}</span>
            </li>
          ))}
        </ol>
      )}
      {found.length > SHOWN && (
        <p className="soft">
          {found.length - SHOWN} more;{' '}
          {sought === '' ? 'look for some of them.' : 'say more of what you look for.'}
        </p>
      )}
    </>
  )
}
