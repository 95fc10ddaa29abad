import { type Plan, type Side } from './document'
import { namedBy } from './drawn'
import { wayOf } from './entry'

/** The ways in which a side trades a security that it looks at: of a pair the second goes the other way. */
function waysOf({ among, do: deed }: Side, symbol: string): number[] {
  const way = wayOf(deed)
  // Several legs are about a price, whichever way it goes.
  if (way === 0 || 'legs' in deed) return []
  if (!('pairs' in among)) return 'list' in among && !among.list.includes(symbol) ? [] : [way]
  return among.pairs.flatMap(([first, second]) =>
    first === symbol ? [way] : second === symbol ? [-way] : [],
  )
}

/**
 * Securities that two plans would open in opposite ways, each undoing what the other does. One that only closes is in nobody's
 * way. `looksAt`: what is known of what they look at, besides what they name.
 */
export function conflictsOf(
  one: Plan,
  looksAt: readonly string[],
  other: Plan,
  looksAtToo: readonly string[],
): string[] {
  const theirs = new Set([...namedBy(other), ...looksAtToo])
  const both = [...new Set([...namedBy(one), ...looksAt])].filter((symbol) => theirs.has(symbol))
  return both.filter((symbol) => {
    const ways = (plan: Plan) => plan.sides.flatMap((side) => waysOf(side, symbol))
    const [mine, against] = [ways(one), ways(other)]
    return mine.some((way) => against.includes(-way))
  })
}
