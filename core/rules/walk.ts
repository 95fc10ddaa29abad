import { childrenOf, type Node } from './tree'

/** Every node of a tree, from the root down. */
export function* nodesOf(node: Node): Generator<Node> {
  yield node
  for (const child of childrenOf(node)) yield* nodesOf(child)
}

/** The same tree with each node below it, then itself, replaced by what `change` gives. */
export function mapTree(node: Node, change: (node: Node) => Node): Node {
  const go = (child: Node) => mapTree(child, change)
  switch (node.kind) {
    case 'call':
      return change({ ...node, args: node.args.map(go) })
    case 'negate':
    case 'not':
      return change({ ...node, of: go(node.of) })
    case 'arith':
    case 'relate':
      return change({ ...node, left: go(node.left), right: go(node.right) })
    case 'between':
      return change({ ...node, of: go(node.of), low: go(node.low), high: go(node.high) })
    case 'logic':
    case 'fan':
      return change({ ...node, parts: node.parts.map(go) })
    default:
      return change(node)
  }
}

/** A tree without its places in the text. */
export const spanless = (node: Node): Node => mapTree(node, ({ at: _, ...rest }) => rest as Node)
