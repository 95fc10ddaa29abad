'use client'
import { AppLink } from './AppLink'
import { useEffect, useState } from 'react'
import { useLink } from '../link/useLink'

/** How long ago the market was last heard of; leads to the data that there is. */
export function DataAge() {
  const heardAt = useLink((s) => s.heardAt)
  const running = useLink((s) => s.clock?.running)
  const [now, setNow] = useState(() => Date.now())
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 1000)
    return () => clearInterval(timer)
  }, [])
  const age = Math.max(0, Math.floor((now - heardAt) / 1000))
  const text =
    heardAt === 0 ? 'data on its way' : running === false ? 'the market is paused' : `data ${age} s old`
  return (
    <AppLink
      className={`blank ${age > 15 && running ? 'warning' : ''}`}
      href="/data"
      style={{ textDecoration: 'none' }}
    >
      {text}
    </AppLink>
  )
}
