import { useEffect, useState } from 'react'
import { type Checked } from '@/core/rules'
import { type ScanResult } from '@/core/scan/scan'
import { useServices } from '../link/LinkProvider'
import { type Source } from '../services/market'
import { useMarket } from '../market/useMarket'

/** What a rule that is being written would find, counted a moment after the last key. */
export function useTally(
  rule: string,
  checked: Checked,
  source: Source | undefined,
  among: readonly string[] | undefined,
): { rule: string; counted: ScanResult } | undefined {
  const market = useMarket()
  const { scans } = useServices()
  const [tally, setTally] = useState<{ rule: string; counted: ScanResult }>()
  const tree = checked.type ? checked.tree : undefined
  const key = source ? JSON.stringify(source) : ''
  useEffect(() => {
    if (!tree || !market || key === '') return
    const abort = new AbortController()
    const timer = setTimeout(() => {
      scans
        .run(
          market,
          JSON.parse(key) as Source,
          { rule: tree, measures: [], among },
          () => undefined,
          abort.signal,
        )
        .then((counted) => setTally({ rule, counted }))
        // The scan itself says what is wrong.
        .catch(() => undefined)
    }, 500)
    return () => {
      clearTimeout(timer)
      abort.abort()
    }
  }, [rule, tree, market, scans, key, among])
  return tally?.rule === rule ? tally : undefined
}
