'use client'
import { lazy, Suspense, useState } from 'react'
import { seenAside } from '../access/seenAside'
import { isSetAside, useRehearsals } from '../access/useRehearsals'
import css from './Shell.module.css'

const WorldsPanel = lazy(() => import('../access/WorldsPanel').then((m) => ({ default: m.WorldsPanel })))

/** Points out once that worlds were set aside; opens the reasons and what to do. */
export function AsideNotice() {
  const [opened, setOpened] = useState(false)
  const seen = seenAside()
  const fresh = (useRehearsals().data ?? []).filter((one) => isSetAside(one) && !seen.has(one.name))
  if (fresh.length === 0 && !opened) return null
  return (
    <>
      {fresh.length > 0 && (
        <>
          <span className={css.dot}>·</span>
          <button
            type="button"
            className="blank warning"
            style={{ color: 'var(--amber)' }}
            onClick={() => setOpened(true)}
          >
            {fresh.length === 1 ? `“${fresh[0].name}” is set aside` : `${fresh.length} worlds are set aside`}
          </button>
        </>
      )}
      <Suspense>{opened && <WorldsPanel opened onClose={() => setOpened(false)} />}</Suspense>
    </>
  )
}
