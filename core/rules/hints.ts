import { INDICATORS } from '../indicators'
import { spreadFan } from './fan'
import { print } from './print'
import { resolveCall } from './resolve'
import { type Node, type Span } from './tree'
import { NAMES } from './words'

/**
 * What is worth saying of a rule that is no mistake: parts that can only hold, or never can. Worked out from the
 * text alone; what the data say of it is told beside (see core/scan).
 */
export type Hint = { at: Span; text: string } & (
  | { code: 'always' | 'never'; why: string }
  /** Two parts that shut each other out, or between them leave nothing out. */
  | { code: 'never together' | 'one always'; other: string }
)

type Bounds = { low: number; high: number }
const EVERYTHING: Bounds = { low: -Infinity, high: Infinity }

const rangeOf = (range: readonly [number, number] | undefined): Bounds | undefined =>
  range && { low: range[0], high: range[1] }

/** Between which bounds a value lies by its definition. */
export function boundsOf(node: Node): Bounds {
  switch (node.kind) {
    case 'number':
      return { low: node.value, high: node.value }
    case 'time':
      return { low: node.minutes, high: node.minutes }
    case 'negate': {
      const { low, high } = boundsOf(node.of)
      return { low: -high, high: -low }
    }
    case 'name':
      return rangeOf(NAMES.get(node.name)?.range) ?? boundsOf({ kind: 'call', name: node.name, args: [] })
    case 'call': {
      const indicator = INDICATORS.get(node.name)
      if (!indicator) return EVERYTHING
      const call = resolveCall(node, indicator)
      return ('code' in call ? undefined : rangeOf(indicator.outputs[call.output].range)) ?? EVERYTHING
    }
    case 'fan':
      return { low: 0, high: node.parts.length }
    default:
      return EVERYTHING
  }
}

/** Whether a comparison of two values within bounds can only hold (true), never can (false), or may do either. */
function settled(op: string, a: Bounds, b: Bounds): boolean | undefined {
  switch (op) {
    case '>':
      return a.low > b.high ? true : a.high <= b.low ? false : undefined
    case '>=':
      return a.low >= b.high ? true : a.high < b.low ? false : undefined
    case '<':
      return settled('>', b, a)
    case '<=':
      return settled('>=', b, a)
    case '=':
      return a.high < b.low || a.low > b.high ? false : undefined
    default:
      return undefined
  }
}

const HERE: Span = { from: 0, to: 0 }

const rangeText = ({ low, high }: Bounds) => `from ${low} to ${high}`

/** Hints about a checked rule, in reading order. */
export function hintsOf(tree: Node): Hint[] {
  const out: Hint[] = []
  const add = (node: Node, code: 'always' | 'never', why: string) =>
    out.push({ code, why, text: print(node), at: node.at ?? HERE })
  const visit = (node: Node): void => {
    const spread = spreadFan(node)
    if (spread) return visit(spread)
    switch (node.kind) {
      case 'logic':
        node.parts.forEach(visit)
        pairs(node.parts, node.op, out)
        return
      case 'not':
        return visit(node.of)
      case 'relate':
        return relate(node, add)
      case 'between': {
        const [low, high] = [boundsOf(node.low), boundsOf(node.high)]
        if (low.low > high.high) add(node, 'never', 'the lower bound lies above the upper one')
        else if (outside(boundsOf(node.of), { low: low.low, high: high.high }))
          add(node, 'never', `${print(node.of)} lies ${rangeText(boundsOf(node.of))}`)
        return
      }
      case 'call':
        node.args.forEach(visit)
        return
      default:
    }
  }
  visit(tree)
  return out
}

/** Hints about a relation: of a comparison that is settled, of a crossing that nothing can come to. */
function relate(
  node: Extract<Node, { kind: 'relate' }>,
  add: (node: Node, code: 'always' | 'never', why: string) => void,
): void {
  const { left, right, how } = node
  const compares = !/[a-z]/.test(how)
  if (print(left) === print(right))
    return add(node, compares && how.endsWith('=') ? 'always' : 'never', 'both sides are the same')
  const [a, b] = [boundsOf(left), boundsOf(right)]
  if (!compares) {
    if (outside(a, b)) add(node, 'never', `${print(left)} lies ${rangeText(a)}`)
    return
  }
  const answer = settled(how, a, b)
  if (answer === undefined) return
  const [bounded, which] = left.kind === 'number' ? [b, print(right)] : [a, print(left)]
  const numbers = left.kind === 'number' && right.kind === 'number'
  add(
    node,
    answer ? 'always' : 'never',
    numbers ? 'both sides are numbers' : `${which} lies ${rangeText(bounded)}`,
  )
}

const outside = (a: Bounds, b: Bounds): boolean => a.high < b.low || a.low > b.high

interface Sided {
  node: Node
  of: string
  /** The stretch of values for which it holds. */
  from: number
  to: number
  open: [boolean, boolean]
}

/** A comparison of something with a plain value, as a stretch of that something. */
function sided(node: Node): Sided | undefined {
  if (node.kind === 'between') {
    const [low, high] = [boundsOf(node.low), boundsOf(node.high)]
    return low.low === low.high && high.low === high.high
      ? { node, of: print(node.of), from: low.low, to: high.low, open: [false, false] }
      : undefined
  }
  if (node.kind !== 'relate') return undefined
  const right = boundsOf(node.right)
  if (right.low !== right.high || !Number.isFinite(right.low)) return undefined
  const of = print(node.left)
  const x = right.low
  switch (node.how) {
    case '>':
      return { node, of, from: x, to: Infinity, open: [true, true] }
    case '>=':
      return { node, of, from: x, to: Infinity, open: [false, true] }
    case '<':
      return { node, of, from: -Infinity, to: x, open: [true, true] }
    case '<=':
      return { node, of, from: -Infinity, to: x, open: [true, false] }
    case '=':
      return { node, of, from: x, to: x, open: [false, false] }
    default:
      return undefined
  }
}

/** Parts of one list that shut each other out (joined by and), or leave nothing out (joined by or). */
function pairs(parts: readonly Node[], op: 'and' | 'or', out: Hint[]): void {
  const known = parts.flatMap((part) => sided(part) ?? [])
  for (const [i, a] of known.entries()) {
    for (const b of known.slice(i + 1)) {
      if (a.of !== b.of) continue
      const [low, high] = a.from <= b.from ? [a, b] : [b, a]
      const touch = low.to === high.from && (low.open[1] || high.open[0])
      const apart = low.to < high.from || touch
      const gap = low.to < high.from || (low.to === high.from && low.open[1] && high.open[0])
      const told = { text: print(b.node), other: print(a.node), at: b.node.at ?? HERE }
      if (op === 'and' && apart) out.push({ code: 'never together', ...told })
      else if (op === 'or' && !gap && low.from === -Infinity && high.to === Infinity)
        out.push({ code: 'one always', ...told })
    }
  }
}

/** A hint as a sentence. */
export function sayHint(hint: Hint): string {
  switch (hint.code) {
    case 'always':
      return `"${hint.text}" always holds: ${hint.why}. It can be left out.`
    case 'never':
      return `"${hint.text}" never holds: ${hint.why}.`
    case 'never together':
      return `"${hint.other}" and "${hint.text}" never hold together. Join them with "or", or change one.`
    case 'one always':
      return `One of "${hint.other}" and "${hint.text}" always holds. Join them with "and", or change one.`
  }
}
