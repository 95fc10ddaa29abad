import { type Node } from './tree'

/**
 * What a fan stands for, in words that every reader of the tree knows: "all of (a > 1, b > 1)" is "a > 1 and
 * b > 1"; "close > any of (x, y)" is "close > x or close > y". Undefined where a node holds no fan to spread.
 */
export function spreadFan(node: Node): Node | undefined {
  let out = spread.get(node)
  if (out === undefined) spread.set(node, (out = spreadOf(node) ?? null))
  return out ?? undefined
}

/** The same node is spread once, so that its parts are the same nodes for everyone who asks. */
const spread = new WeakMap<Node, Node | null>()

function spreadOf(node: Node): Node | undefined {
  if (node.kind === 'fan') return node.each === 'count' ? undefined : joined(node, node.parts)
  if (node.kind === 'relate') {
    for (const side of ['left', 'right'] as const) {
      const fan = node[side]
      if (isFan(fan))
        return joined(
          fan,
          fan.parts.map((part) => ({ ...node, [side]: part })),
        )
    }
  }
  if (node.kind === 'between' && isFan(node.of)) {
    const fan = node.of
    return joined(
      fan,
      fan.parts.map((of) => ({ ...node, of })),
    )
  }
  if (node.kind === 'call' && node.name === 'reaches' && isFan(node.args[0])) {
    const fan = node.args[0]
    return joined(
      fan,
      fan.parts.map((part) => ({ ...node, args: [part] })),
    )
  }
  return undefined
}

/** Several of which all or any must do; "count of" is a number like others. */
const isFan = (node: Node | undefined): node is Extract<Node, { kind: 'fan' }> =>
  node?.kind === 'fan' && node.each !== 'count'

function joined(fan: Extract<Node, { kind: 'fan' }>, parts: Node[]): Node {
  if (parts.length === 1) return parts[0]
  const op = fan.each === 'all' ? 'and' : 'or'
  return {
    kind: 'logic',
    op,
    // Parts of the same kind are one list in the tree, as in the text.
    parts: parts.flatMap((p) => (p.kind === 'logic' && p.op === op ? p.parts : [p])),
    at: fan.at,
  }
}
