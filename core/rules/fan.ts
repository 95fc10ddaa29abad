import { childrenOf, type Node } from './tree'

/**
 * What a fan stands for, in words that every reader of the tree knows: "all of (a > 1, b > 1)" is "a > 1 and
 * b > 1"; "close > any of (x, y)" is "close > x or close > y". Undefined where a node holds no fan to spread.
 */
export function spreadFan(node: Node): Node | undefined {
  if (node.kind === 'fan') return joined(node, node.parts)
  if (node.kind === 'compare' || node.kind === 'cross') {
    for (const side of ['left', 'right'] as const) {
      const fan = node[side]
      if (fan.kind === 'fan')
        return joined(
          fan,
          fan.parts.map((part) => ({ ...node, [side]: part })),
        )
    }
  }
  if (node.kind === 'between' && node.of.kind === 'fan') {
    const fan = node.of
    return joined(
      fan,
      fan.parts.map((of) => ({ ...node, of })),
    )
  }
  if (node.kind === 'call' && node.name === 'reaches' && node.args[0]?.kind === 'fan') {
    const fan = node.args[0]
    return joined(
      fan,
      fan.parts.map((part) => ({ ...node, args: [part] })),
    )
  }
  return undefined
}

function joined(fan: Extract<Node, { kind: 'fan' }>, parts: Node[]): Node {
  const op = fan.each === 'all' ? 'and' : 'or'
  return {
    kind: 'logic',
    op,
    // Parts of the same kind are one list in the tree, as in the text.
    parts: parts.flatMap((p) => (p.kind === 'logic' && p.op === op ? p.parts : [p])),
    at: fan.at,
  }
}

/** Every node of a tree, from the root down. */
export function* nodesOf(node: Node): Generator<Node> {
  yield node
  for (const child of childrenOf(node)) yield* nodesOf(child)
}
