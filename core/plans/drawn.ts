import { COMPANY_NAMES } from '../market/candidate'
import { type Drawing } from '../market/drawings'
import { type Report } from '../market/report'
import { nodesOf, parse, readsOf } from '../rules'
import { type Plan, type Side } from './document'
import { bound } from './inputs'
import { readingsOf } from './texts'

/** On the finest bars there are, so that no timeframe in them is too fine. */
const FINEST = { count: 1, unit: 'min' } as const

/** Drawings by security, as they stand on its chart. */
export type DrawingsOf = Readonly<Record<string, readonly Drawing[]>>

const KINDS: readonly string[] = ['level', 'line', 'zone']

/** Names of what is drawn that the rule text of a side asks for. */
function namesIn(side: Side): string[] {
  return namesOf(readingsOf(side).flatMap(({ texts }) => texts.map(({ text }) => text)))
}

/** Names that the search of a side asks for: of whatever it looks through. */
const namesSought = ({ among }: Side): string[] =>
  'found' in among ? namesOf([among.found.rule, among.found.by ?? '']) : []

function namesOf(texts: readonly string[]): string[] {
  return texts.flatMap((text) => {
    const { tree } = parse(text)
    return [...(tree ? nodesOf(tree) : [])].flatMap((node) => {
      if (node.kind !== 'call' || !KINDS.includes(node.name)) return []
      const [name] = node.args
      return name?.kind === 'text' ? [name.value] : []
    })
  })
}

/** Names of what is drawn that a plan asks for, each once. */
export const drawnNames = (plan: Plan): string[] => [
  ...new Set(bound(plan).sides.flatMap((side) => [...namesIn(side), ...namesSought(side)])),
]

/** Whether a plan looks at what it does not name: whatever is drawn or brought may be of it. */
export const looksBeyond = ({ sides }: Pick<Plan, 'sides'>): boolean =>
  sides.some(({ among }) => !('list' in among || 'pairs' in among))

/** Whether rule text or gates of a plan, its inputs in their places, ask what companies have reported. */
export function asksOfCompanies({ sides }: Pick<Plan, 'sides'>): boolean {
  return sides.some((side) => {
    const searched = 'found' in side.among ? [side.among.found.rule, side.among.found.by ?? ''] : []
    const asked = readingsOf(side).flatMap(({ texts }) => texts.map(({ text }) => text))
    const trees = [...asked, ...searched].flatMap((text) => parse(text).tree ?? [])
    const gates = side.provided.some(({ rule }) =>
      COMPANY_NAMES.some((name) => rule.toLowerCase().includes(name)),
    )
    return gates || readsOf(trees, FINEST).sources.has('figures')
  })
}

/** A plan that carries company figures of the trader's own where it asks for any; none where it does not. */
export function withFigures(plan: Plan, own: Readonly<Record<string, Report[]>>): Plan {
  const { figures: _before, ...rest } = plan
  const named = namedBy(plan)
  const carried = Object.entries(own).filter(([symbol]) => looksBeyond(plan) || named.includes(symbol))
  return carried.length === 0 || !asksOfCompanies(bound(plan))
    ? rest
    : { ...rest, figures: Object.fromEntries(carried) }
}

/** Securities that a plan names itself. */
export const namedBy = ({ sides }: Pick<Plan, 'sides'>): string[] => [
  ...new Set(
    sides.flatMap(({ among }) => ('list' in among ? among.list : 'pairs' in among ? among.pairs.flat() : [])),
  ),
]

/** Contracts that a plan opens. */
export const contractsOf = ({ sides }: Pick<Plan, 'sides'>): string[] => [
  ...new Set(
    sides.flatMap(({ do: deed }) => ('legs' in deed ? deed.legs.map(({ contract }) => contract) : [])),
  ),
]

/** Securities of which the rule text of a side is asked, where it names them itself. */
const firstsOf = ({ among }: Side): readonly string[] =>
  'list' in among ? among.list : 'pairs' in among ? among.pairs.map(([first]) => first) : []

/** A plan that carries what it asks for of what is drawn, as it stands now; what it asks for and is drawn nowhere is left out. */
export function withDrawings(plan: Plan, drawings: DrawingsOf): Plan {
  const names = new Set(drawnNames(plan))
  const { drawings: _before, ...rest } = plan
  if (names.size === 0) return rest
  const symbols = looksBeyond(plan) ? Object.keys(drawings) : namedBy(plan)
  const carried = symbols.flatMap((symbol): [string, Drawing[]][] => {
    const own = (drawings[symbol] ?? []).filter(({ name }) => names.has(name))
    return own.length > 0 ? [[symbol, own]] : []
  })
  return { ...rest, drawings: Object.fromEntries(carried) }
}

/** What a plan asks for that is not drawn on a security that it names, in words; undefined where nothing is missing. */
export function missingDrawings({ sides, drawings = {} }: Plan): string | undefined {
  for (const side of sides) {
    const symbols = firstsOf(side)
    for (const name of namesIn(side)) {
      const without = symbols.filter((symbol) => !drawings[symbol]?.some((one) => one.name === name))
      if (without.length > 0) return `nothing is drawn under the name “${name}” on ${without.join(', ')}`
    }
  }
  return undefined
}
