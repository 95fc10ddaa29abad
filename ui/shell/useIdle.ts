import { useEffect, useState } from 'react'

/** Milliseconds in which a screen shows what it was opened for; what can wait does not begin before. */
const FIRST = 4_000

/** Whether the page has shown what it was opened for and has nothing to do: what can wait waits for it. */
export function useIdle(): boolean {
  const [idle, setIdle] = useState(false)
  useEffect(() => {
    let asked = 0
    const timer = setTimeout(() => (asked = requestIdleCallback(() => setIdle(true))), FIRST)
    return () => {
      clearTimeout(timer)
      cancelIdleCallback(asked)
    }
  }, [])
  return idle
}
