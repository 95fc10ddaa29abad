'use client'
import Link from 'next/link'
import { usePathname } from 'next/navigation'
import { SECTIONS } from './sections'
import css from './Shell.module.css'

export function SectionTabs() {
  const path = usePathname()
  return (
    <nav className={css.sections} aria-label="Sections">
      {SECTIONS.map(({ name, path: to }) => (
        <Link key={to} href={to} aria-current={path.startsWith(to) ? 'page' : undefined}>
          {name}
        </Link>
      ))}
    </nav>
  )
}
