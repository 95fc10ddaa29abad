import { CANDIDATE_NAMES, type CandidateName, OF_PLANS } from '../market/candidate'
import { checkRule, type Node, nodesOf } from '../rules'

/** A figure of the order that a gate holds against a limit. */
export interface GateBound {
  name: CandidateName
  limit: number
}

const NAMES: ReadonlySet<string> = new Set([...CANDIDATE_NAMES, ...OF_PLANS])
const isFigure = (node: Node): node is Extract<Node, { kind: 'name' }> =>
  node.kind === 'name' && NAMES.has(node.name)

/** The first figure in the rule of a gate that is held against a plain limit; undefined where there is none. */
export function boundOf(rule: string): GateBound | undefined {
  const { tree } = checkRule(rule, { count: 1, unit: 'day' })
  for (const node of tree ? nodesOf(tree) : []) {
    if (node.kind !== 'relate') continue
    const [figure, limit] = isFigure(node.left) ? [node.left, node.right] : [node.right, node.left]
    const value =
      limit.kind === 'number'
        ? limit.value
        : limit.kind === 'negate' && limit.of.kind === 'number'
          ? -limit.of.value
          : undefined
    if (isFigure(figure) && value !== undefined) return { name: figure.name as CandidateName, limit: value }
  }
  return undefined
}
