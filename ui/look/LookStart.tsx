'use client'
import { Button } from '@mantine/core'
import { spotlight } from '@mantine/spotlight'
import { useLiveQuery } from 'dexie-react-hooks'
import { useRouter } from 'next/navigation'
import { useEffect } from 'react'
import { useFind } from '../find/findStore'
import page from '../shell/Page.module.css'
import { lookedAtBefore } from './lookedAt'

/** Look without a security: the one marked in Find, else the last one looked at, else a search. */
export function LookStart() {
  const router = useRouter()
  const { selected, universe } = useFind()
  const before = useLiveQuery(lookedAtBefore, [])
  useEffect(() => {
    if (selected)
      router.replace(`/look/${selected}${universe.is === 'own' ? `?data=${universe.dataId}` : ''}`)
    else if (before?.[0])
      router.replace(`/look/${before[0].symbol}${before[0].dataId ? `?data=${before[0].dataId}` : ''}`)
  }, [selected, universe, before, router])
  if (!before || before.length > 0) return null
  return (
    <div className={page.empty}>
      <span>Which security would you like to look at?</span>
      <Button onClick={spotlight.open}>Search for one</Button>
    </div>
  )
}
