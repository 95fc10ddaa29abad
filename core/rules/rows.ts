import { print } from './print'
import { type Node } from './tree'
import { RELATIONS } from './words'

/** How the two sides of a row of the builder stand to each other: a relation, or one of the last three. */
export type RowRelation = string

export const ROW_RELATIONS: readonly RowRelation[] = [
  ...RELATIONS.keys(),
  'between',
  'holds',
  'does not hold',
]

/** One condition: its values as rule text. `upper` is the second bound of "between". */
export interface Row {
  kind: 'row'
  left: string
  how: RowRelation
  right: string
  upper: string
}

/** Conditions of which all ("and") or at least one ("or") must hold. */
export interface Group {
  kind: 'group'
  op: 'and' | 'or'
  items: (Row | Group)[]
}

const row = (left: string, how: RowRelation, right = '', upper = ''): Row => ({
  kind: 'row',
  left,
  how,
  right,
  upper,
})

/** A rule as rows and groups; the outermost is always a group. */
export function rowsOf(tree: Node): Group {
  const item = itemOf(tree)
  return item.kind === 'group' ? item : { kind: 'group', op: 'and', items: [item] }
}

function itemOf(node: Node): Row | Group {
  switch (node.kind) {
    case 'logic':
      return { kind: 'group', op: node.op, items: node.parts.map(itemOf) }
    case 'relate':
      return row(print(node.left), node.how, print(node.right))
    case 'between':
      return row(print(node.of), 'between', print(node.low), print(node.high))
    case 'not':
      return row(print(node.of), 'does not hold')
    default:
      return row(print(node), 'holds')
  }
}

/** Rule text of rows and groups; an empty group leaves nothing. */
export function textOfRows(group: Group): string {
  return group.items
    .map((item) => textOf(item, group.items.length > 1))
    .filter((text) => text !== '')
    .join(` ${group.op} `)
}

function textOf(item: Row | Group, among: boolean): string {
  if (item.kind === 'group') {
    const text = textOfRows(item)
    return among && item.items.length > 1 ? `(${text})` : text
  }
  const { left, how, right, upper } = item
  if (how === 'holds') return left
  if (how === 'does not hold') return `not (${left})`
  if (how === 'between') return `${left} between ${right} and ${upper}`
  return `${left} ${how} ${right}`
}

/** Place of an item: its index in each group on the way to it. */
export type Path = readonly number[]

export function itemAt(group: Group, path: Path): Row | Group | undefined {
  let at: Row | Group | undefined = group
  for (const index of path) at = at?.kind === 'group' ? at.items[index] : undefined
  return at
}

/** The same rows with the items of one group changed; everything else is the same object. */
function change(group: Group, path: Path, of: (items: Group['items']) => Group['items']): Group {
  if (path.length === 0) return { ...group, items: of(group.items) }
  const [first, ...rest] = path
  const items = group.items.map((item, i) =>
    i === first && item.kind === 'group' ? change(item, rest, of) : item,
  )
  return { ...group, items }
}

export const replaceAt = (group: Group, path: Path, item: Row | Group): Group =>
  path.length === 0
    ? (item as Group)
    : change(group, path.slice(0, -1), (items) => items.map((one, i) => (i === path.at(-1) ? item : one)))

export const removeAt = (group: Group, path: Path): Group =>
  withoutEmpty(change(group, path.slice(0, -1), (items) => items.filter((_, i) => i !== path.at(-1))))

export const insertAt = (group: Group, path: Path, item: Row | Group): Group =>
  change(group, path.slice(0, -1), (items) => items.toSpliced(path.at(-1)!, 0, item))

/** Moves an item before the place of another; a group cannot be moved into itself. */
export function moveTo(group: Group, from: Path, to: Path): Group {
  const item = itemAt(group, from)
  if (!item || (to.length > from.length && from.every((index, k) => to[k] === index))) return group
  const parentFrom = from.slice(0, -1).join()
  const taken = change(group, from.slice(0, -1), (items) => items.filter((_, i) => i !== from.at(-1)))
  // Taking it away moves what stood after it in the same group one forward.
  const place = to.map((index, k) =>
    k === from.length - 1 && to.slice(0, k).join() === parentFrom && index > from[k] && k < to.length - 1
      ? index - 1
      : index,
  )
  return withoutEmpty(insertAt(taken, place, item))
}

/** Groups that nothing is left in go too. */
function withoutEmpty(group: Group): Group {
  const items = group.items.flatMap((item): (Row | Group)[] => {
    if (item.kind === 'row') return [item]
    const inner = withoutEmpty(item)
    return inner.items.length === 0 ? [] : [inner]
  })
  return { ...group, items }
}
