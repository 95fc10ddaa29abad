import { useEffect, useMemo, useRef, useState } from 'react'
import { tickedBy } from '@/core/market/growing'
import { type BarSource, checkRule, LiveRule, type Verdict, verdictOf } from '@/core/rules'
import { useServices } from '../link/LinkProvider'
import { useMarket } from '../market/useMarket'

/** A follower and what it was made of: as long as that stays, it goes on with bars that are fetched anew. */
interface Made {
  of: string
  live: LiveRule
}

/**
 * Whether a rule holds right now, with every tick of the bar that grows, of those beside it too. Undefined where it
 * cannot be said: no bar grows, or the rule hangs on finer bars.
 */
export function useLiveRule(symbol: string, source: BarSource, rule: string): Verdict | undefined {
  const { quotes } = useServices()
  const market = useMarket()
  const [verdict, setVerdict] = useState<Verdict>()
  const made = useRef<Made>(undefined)
  const { base, drawings, reports, holdings, currency } = source
  const tree = useMemo(() => {
    const checked = checkRule(rule, base.every)
    return checked.type?.is === 'yes/no' ? checked.tree : undefined
  }, [rule, base.every])
  const grows = base.end[base.end.length - 1] === Infinity
  const key = JSON.stringify([symbol, rule, base.every, drawings, reports?.length, holdings?.length])

  useEffect(() => {
    const others = (live: LiveRule) =>
      live.besides.flatMap((name) => {
        const bars = source.beside?.(name)?.base
        return bars ? [[name, bars] as const] : []
      })
    const begin = (): LiveRule | undefined => {
      if (!tree || !grows) return undefined
      try {
        const about = { zone: base.zone, drawings, reports, holdings, currency }
        const besideOf = (name: string) => {
          const other = source.beside?.(name)
          return other && { zone: other.base.zone, currency: other.currency }
        }
        const live = new LiveRule(tree, base.every, { ...about, increments: source.increments, besideOf })
        live.take(base, others(live))
        return live
      } catch (error) {
        // What cannot be followed tick by tick is still told at each bar.
        if (error instanceof RangeError) return undefined
        throw error
      }
    }
    const before = made.current?.of === key ? made.current.live : undefined
    const live = before?.take(base, others(before)) ? before : begin()
    made.current = live && { of: key, live }
    const say = () => setVerdict(live && verdictOf(live.value))
    say()
    if (!live) return
    const venue = market?.securities.find((s) => s.symbol === symbol)?.venue ?? ''
    const off = [undefined, ...live.besides].map((name) => {
      const real = name === undefined ? symbol : name === 'index' ? market?.indices[venue] : name
      if (real === undefined) return () => undefined
      return quotes.listen(real, (tick) => {
        live.tick(tickedBy(tick), name)
        say()
      })
    })
    return () => off.forEach((stop) => stop())
    // The source is another object at each fetch; what the follower is made of is in the key.
  }, [key, tree, grows, base, source, drawings, reports, holdings, currency, quotes, market, symbol])

  return verdict
}
