'use client'
import { type Found } from './findStore'
import css from './Find.module.css'

/** How many securities each part of the rule lets through, so that the one that shuts most out is seen. */
export function PartCounts({ found, total }: { found: Pick<Found, 'parts' | 'looked'>; total?: number }) {
  if (found.parts.length < 2 || found.looked === 0) return null
  const fewest = Math.min(...found.parts.map((part) => part.holds))
  return (
    <ul className={css.counts} aria-label="How many pass each part">
      {found.parts.map((part) => (
        <li key={part.text} data-fewest={part.holds === fewest || undefined}>
          <strong>{part.holds.toLocaleString('en-US')}</strong> <code>{part.text}</code>
          {part.unknown > 0 && <span className="soft"> · {part.unknown} unknown</span>}
        </li>
      ))}
      {total !== undefined && (
        <li>
          <strong>{total.toLocaleString('en-US')}</strong> all together
        </li>
      )}
    </ul>
  )
}
