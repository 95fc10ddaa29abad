import { type Verdict } from '@/core/rules'

const SHAPE: Record<Verdict, string> = { holds: '●', fails: '○', unknown: '◌' }

/** ● holds, ○ fails, ◌ unknown: by shape, with the word for those who hear the page unless it stands beside it. */
export function VerdictMark({ verdict, worded }: { verdict: Verdict; worded?: boolean }) {
  return (
    <span
      className={verdict === 'fails' ? 'refusal' : 'accent'}
      style={verdict === 'fails' ? undefined : { color: 'var(--accent)' }}
    >
      <span aria-hidden>{SHAPE[verdict]}</span>
      {!worded && <span className="visually-hidden">{verdict}: </span>}
    </span>
  )
}
