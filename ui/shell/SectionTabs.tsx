'use client'
import { usePathname } from 'next/navigation'
import { AppLink } from './AppLink'
import { SECTIONS } from './sections'
import css from './Shell.module.css'
import { useIdle } from './useIdle'

/** The sections; what the others need is fetched once the page has nothing more urgent to do. */
export function SectionTabs() {
  const path = usePathname()
  const idle = useIdle()
  return (
    <nav className={css.sections} aria-label="Sections">
      {SECTIONS.map(({ name, path: to }) => (
        <AppLink
          key={to}
          href={to}
          prefetch={idle ? null : false}
          aria-current={path.startsWith(to) ? 'page' : undefined}
        >
          {name}
        </AppLink>
      ))}
    </nav>
  )
}
