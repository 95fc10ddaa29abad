import { type Security } from '@/core/market/security'
import { type SymbolList, type Universe } from '@/store/db'

/** Who is in a universe, in the order in which they are listed; undefined for own data, which is all of it. */
export function membersOf(
  universe: Universe,
  listed: readonly Security[],
  runs: ReadonlyMap<string, readonly string[]>,
  lists: readonly SymbolList[],
): string[] | undefined {
  const where = (holds: (security: Security) => boolean) => listed.filter(holds).map((s) => s.symbol)
  switch (universe.is) {
    case 'everything':
      return where(() => true)
    case 'venue':
      return where((s) => s.venue === universe.mic)
    case 'kind':
      return where((s) => s.kind === universe.kind)
    case 'sector':
      return where((s) => s.sector === universe.sector)
    case 'country':
      return where((s) => s.country === universe.country)
    case 'index':
      return where((s) => s.indices.includes(universe.index))
    case 'scan':
      return [...(runs.get(universe.scanId) ?? [])]
    case 'list':
      return lists.find((l) => l.id === universe.listId)?.symbols ?? []
    case 'own':
      return undefined
    case 'joined': {
      const [one, other] = universe.parts.map((part) => membersOf(part, listed, runs, lists) ?? [])
      const has = new Set(other)
      if (universe.how === 'or') return [...new Set([...one, ...other])]
      return one.filter((symbol) => has.has(symbol) === (universe.how === 'and'))
    }
  }
}
