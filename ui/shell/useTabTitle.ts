import { usePathname } from 'next/navigation'
import { useEffect } from 'react'
import { useWhere } from '../link/connection'
import { useRuns } from '../services/useRuns'

/** The title of the tab: environment and account first, so that nobody takes one tab for another, and what runs in it. */
export function useTabTitle(): void {
  const where = useWhere()
  const path = usePathname()
  const armed = Object.values(useRuns((s) => s.runs)).filter(({ acts, idle }) => acts && !idle).length
  const title = [
    where.charAt(0).toUpperCase() + where.slice(1),
    ...(armed > 0 ? [`${armed} armed here`] : []),
    'Fleet Heron',
  ].join(' · ')
  useEffect(() => {
    document.title = title
  }, [title, path])
}
