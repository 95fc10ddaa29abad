import { print } from './print'
import { type Node, type Span } from './tree'
import { mapTree, nodesOf } from './walk'

/**
 * "x crosses below all of (a, b)" asks for crossings of all of them on one bar; what people mostly mean is the moment
 * at which x has come under all. Both can be written; this tells one from the other and makes each from the other.
 */
export interface FanForm {
  at: Span | undefined
  /** Whether all are crossed on one bar, or the last of them is. */
  is: 'on one bar' | 'under all'
  /** What is written, what stands over or under what, and the other form of it. */
  here: string
  value: string
  way: 'above' | 'below'
  other: string
}

const isAll = (node: Node): node is Extract<Node, { kind: 'fan' }> =>
  node.kind === 'fan' && node.each === 'all' && node.parts.length > 1

/** What lasts once a crossing has come. */
const STAYS: Readonly<Record<string, string>> = { 'crosses above': '>', 'crosses below': '<' }

/** The other form of a node; undefined where it is neither. */
function otherForm(node: Node): Node | undefined {
  if (node.kind === 'relate' && (isAll(node.left) || isAll(node.right))) {
    const { left, right } = node
    const how = STAYS[node.how]
    if (how === undefined) return undefined
    return { kind: 'call', name: 'begins', args: [{ kind: 'relate', how, left, right }] }
  }
  if (node.kind !== 'call' || node.name !== 'begins') return undefined
  const [of] = node.args
  if (of?.kind !== 'relate' || !(isAll(of.left) || isAll(of.right))) return undefined
  const how = Object.keys(STAYS).find((crossing) => STAYS[crossing] === of.how)
  return how === undefined ? undefined : { ...of, how }
}

/** The first place of a rule that has two forms; undefined where it has none. */
export function fanForm(tree: Node): FanForm | undefined {
  for (const node of nodesOf(tree)) {
    const other = otherForm(node)
    if (!other) continue
    const cross = (node.kind === 'relate' ? node : other) as Extract<Node, { kind: 'relate' }>
    const above = cross.how === 'crosses above'
    return {
      at: node.at,
      is: node.kind === 'relate' ? 'on one bar' : 'under all',
      here: print(node),
      value: print(isAll(cross.left) ? cross.right : cross.left),
      way: isAll(cross.left) === above ? 'below' : 'above',
      other: print(other),
    }
  }
  return undefined
}

/** The rule with every part that reads as the form does put into the other. */
export const inOtherForm = (tree: Node, form: FanForm): Node =>
  mapTree(tree, (node) => (print(node) === form.here ? (otherForm(node) ?? node) : node))

const times = (n: number | undefined): string =>
  n === undefined
    ? ''
    : `, ${n === 0 ? 'never' : n === 1 ? 'once' : `${n.toLocaleString('en-US')} times`} on these bars`

/** Which form is written and what the other would be, with how often each came true, where it is known. */
export function sayFanForm(
  form: FanForm,
  here: number | undefined,
  other: number | undefined,
): { here: string; other: string } {
  const onOneBar = `all crossed on one and the same bar`
  const underAll = `the moment at which ${form.value} has come ${form.way === 'above' ? 'over' : 'under'} all of them`
  return form.is === 'on one bar'
    ? { here: `This asks for ${onOneBar}${times(here)}.`, other: `${underAll}${times(other)}` }
    : { here: `This asks for ${underAll}${times(here)}.`, other: `${onOneBar}${times(other)}` }
}
