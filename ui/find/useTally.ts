import { useEffect, useState } from 'react'
import { type Checked } from '@/core/rules'
import { type ScanResult } from '@/core/scan/scan'
import { runScan, type Source } from '../market/scanEngine'
import { useMarket } from '../market/useMarket'

/** What a rule that is being written would find, counted a moment after the last key. */
export function useTally(
  rule: string,
  checked: Checked,
  source: Source | undefined,
  among: readonly string[] | undefined,
): { rule: string; counted: ScanResult } | undefined {
  const market = useMarket()
  const [tally, setTally] = useState<{ rule: string; counted: ScanResult }>()
  const sound = checked.type !== undefined
  const key = source ? JSON.stringify(source) : ''
  useEffect(() => {
    if (!sound || !market || key === '') return
    const abort = new AbortController()
    const timer = setTimeout(() => {
      runScan(market, JSON.parse(key) as Source, { rule, measures: [], among }, () => undefined, abort.signal)
        .then((counted) => setTally({ rule, counted }))
        // The scan itself says what is wrong.
        .catch(() => undefined)
    }, 500)
    return () => {
      clearTimeout(timer)
      abort.abort()
    }
  }, [rule, sound, market, key, among])
  return tally?.rule === rule ? tally : undefined
}
