'use client'
import { useIdle } from './useIdle'
import Link from 'next/link'
import { usePathname } from 'next/navigation'
import { SECTIONS } from './sections'
import css from './Shell.module.css'

/** The sections; what the others need is fetched once the page has nothing more urgent to do. */
export function SectionTabs() {
  const path = usePathname()
  const idle = useIdle()
  return (
    <nav className={css.sections} aria-label="Sections">
      {SECTIONS.map(({ name, path: to }) => (
        <Link
          key={to}
          href={to}
          prefetch={idle ? null : false}
          aria-current={path.startsWith(to) ? 'page' : undefined}
        >
          {name}
        </Link>
      ))}
    </nav>
  )
}
