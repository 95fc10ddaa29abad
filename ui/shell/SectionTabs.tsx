'use client'
import { usePathname } from 'next/navigation'
import { AppLink } from './AppLink'
import { SECTIONS } from './sections'
import css from './Shell.module.css'

/** The sections of the day. */
export function SectionTabs() {
  const path = usePathname()
  return (
    <nav className={css.sections} aria-label="Sections">
      {SECTIONS.map(({ name, path: to }) => (
        <AppLink key={to} href={to} aria-current={path.startsWith(to) ? 'page' : undefined}>
          {name}
        </AppLink>
      ))}
    </nav>
  )
}
