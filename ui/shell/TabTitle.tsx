import { usePathname } from 'next/navigation'
import { useWhere } from '../link/connection'
import { useRuns } from '../services/useRuns'

const capital = (word: string): string => word.charAt(0).toUpperCase() + word.slice(1)

/**
 * The title of the tab: environment and account first, so that nobody takes one tab for another, then what runs in it and what it
 * shows. It is an element and not metadata of the pages, which come later than the account and would take its place.
 */
export function TabTitle() {
  const where = useWhere()
  const armed = Object.values(useRuns((s) => s.runs)).filter(({ acts, idle }) => acts && !idle).length
  const shown = decodeURIComponent(usePathname().split('/').at(-1)!)
  const parts = [capital(where), armed > 0 && `${armed} armed here`, capital(shown), 'Fleet Heron']
  return <title>{parts.filter(Boolean).join(' · ')}</title>
}
