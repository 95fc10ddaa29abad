import { type MarketNow } from '../market/candidate'
import { type Breadth, leanOf } from './breadth'

const LEANS = { up: 1, down: -1, neither: 0 } as const

/** How a market stands at the last of its bars, as gates ask about it; unknown where it has none. */
export function marketNow(all: Breadth): MarketNow {
  const last = all.time.length - 1
  const moved = (all.advancing[last] ?? NaN) + (all.declining[last] ?? NaN)
  return {
    breadth: all.above50[last] ?? NaN,
    'slow breadth': all.above200[last] ?? NaN,
    'advancing share': moved > 0 ? (100 * all.advancing[last]) / moved : NaN,
    'market lean': last < 0 ? NaN : LEANS[leanOf(all)],
  }
}
