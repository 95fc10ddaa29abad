import { useAccountOf } from '../link/connection'
import { useRuns } from '../services/useRuns'
import { useInOtherTabs } from '../services/useBegun'
import { AppLink } from './AppLink'
import css from './Shell.module.css'

/** "3 plans armed, 1 in paper PAPER-2, 1 in another tab"; nothing if none is. */
export function ArmedCount() {
  const of = useAccountOf()
  const here = Object.values(useRuns((s) => s.runs)).filter(({ acts, idle }) => acts && !idle)
  const inTabs = useInOtherTabs().filter(({ acts, idle }) => acts && !idle)
  const all = here.length + inTabs.length
  if (all === 0) return null
  const others = new Map<string, number>()
  for (const { of: own, where } of here) if (own !== of) others.set(where, (others.get(where) ?? 0) + 1)
  for (const { of: own, environment, account } of inTabs)
    if (own !== of) {
      const where = `${environment === 'live' ? 'LIVE' : 'paper'} ${account}`
      others.set(where, (others.get(where) ?? 0) + 1)
    }
  const parts = [
    `${all} ${all === 1 ? 'plan' : 'plans'} armed`,
    ...[...others].map(([where, count]) => `${all === 1 ? '' : `${count} `}in ${where}`),
    ...(inTabs.length > 0
      ? [all === inTabs.length ? 'in another tab' : `${inTabs.length} in another tab`]
      : []),
  ]
  return (
    <>
      <span className={css.dot}>·</span>
      <AppLink className="blank" href="/plan" style={{ textDecoration: 'none' }}>
        {parts.join(', ')}
      </AppLink>
    </>
  )
}
