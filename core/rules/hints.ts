import { INDICATORS } from '../indicators'
import { spreadFan } from './fan'
import { print } from './print'
import { resolveCall } from './resolve'
import { type Comparison, type Node, type Span } from './tree'

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
      if (node.name === 'volume') return { low: 0, high: Infinity }
      if (node.name === 'time') return { low: 0, high: 1440 }
      return boundsOf({ kind: 'call', name: node.name, args: [] })
    case 'call': {
      const indicator = INDICATORS.get(node.name)
      if (!indicator) return EVERYTHING
      const call = resolveCall(node, indicator)
      const range = 'code' in call ? undefined : indicator.outputs[call.output].range
      return range ? { low: range[0], high: range[1] } : EVERYTHING
    }
    case 'fan':
      return { low: 0, high: node.parts.length }
    default:
      return EVERYTHING
  }
}

/** Whether a comparison of two values within bounds can only hold (true), never can (false), or may do either. */
function settled(op: Comparison, a: Bounds, b: Bounds): boolean | undefined {
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
      case 'compare': {
        const { left, right, op } = node
        if (print(left) === print(right))
          return void add(
            node,
            op === '=' || op.endsWith('=') ? 'always' : 'never',
            'both sides are the same',
          )
        const [a, b] = [boundsOf(left), boundsOf(right)]
        const answer = settled(op, a, b)
        if (answer === undefined) return
        const bounded = left.kind === 'number' ? b : a
        const which = print(left.kind === 'number' ? right : left)
        add(
          node,
          answer ? 'always' : 'never',
          left.kind === 'number' && right.kind === 'number'
            ? 'both sides are numbers'
            : `${which} lies ${rangeText(bounded)}`,
        )
        return
      }
      case 'cross':
        if (print(node.left) === print(node.right)) return void add(node, 'never', 'both sides are the same')
        if (outside(boundsOf(node.left), boundsOf(node.right)))
          add(node, 'never', `${print(node.left)} lies ${rangeText(boundsOf(node.left))}`)
        return
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
  if (node.kind !== 'compare') return undefined
  const right = boundsOf(node.right)
  if (right.low !== right.high || !Number.isFinite(right.low)) return undefined
  const of = print(node.left)
  const x = right.low
  switch (node.op) {
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
