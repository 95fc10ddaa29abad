import { INDICATORS } from '../indicators'
import { unitOf } from './check'
import { spreadFan } from './fan'
import { boundsOf } from './hints'
import { print } from './print'
import { spanless, nodesOf } from './walk'
import { type CallNode, type Comparison, type Node } from './tree'

/**
 * The opposite of a rule for the other direction of the market: above becomes below, high becomes low, upper becomes
 * lower, 30 becomes 70 about the middle of a bounded measure, a distance above nought becomes one below. What has no
 * direction (volume, ranges, times of day, company figures) stays. Done twice, it gives the rule back.
 */

/** Names that stand for the two sides of the same thing. */
const PAIRS: readonly [string, string][] = [
  ['high', 'low'],
  ['highest', 'lowest'],
  ['least', 'greatest'],
  ['climbs', 'sinks'],
  ['support', 'resistance'],
  ['gap up', 'gap down'],
  ['new high', 'new low'],
  ['trend up', 'trend down'],
  ['uptrades', 'downtrades'],
]
const OUTPUT_PAIRS: readonly [string, string][] = [
  ['upper', 'lower'],
  ['high', 'low'],
  ['up', 'down'],
  ['plus', 'minus'],
  ['r1', 's1'],
  ['r2', 's2'],
  ['r3', 's3'],
]

const swap = (pairs: readonly [string, string][], name: string): string => {
  for (const [a, b] of pairs) {
    if (name === a) return b
    if (name === b) return a
  }
  return name
}

/** Indicators that swing about nought with the direction of the price. */
const ABOUT_NOUGHT = new Set([
  'roc',
  'momentum',
  'macd',
  'ppo',
  'cci',
  'zscore',
  'gap',
  'strength',
  'trend',
  'chaikin',
  'accumulation',
  'obv',
  'parabolic',
  'earnings growth',
])

/** Bounded indicators that say how strongly, not which way. */
const NO_DIRECTION = new Set(['adx', 'regression', 'correlation'])

const FLIPPED: Record<Comparison, Comparison> = { '>': '<', '<': '>', '>=': '<=', '<=': '>=', '=': '=' }

const rounded = (x: number): number => Number(x.toPrecision(12))

export interface OtherSide {
  tree: Node
  /** Each smallest condition that was changed, before and after. */
  changed: { from: string; to: string }[]
}

export function otherSide(tree: Node): OtherSide {
  const changed: OtherSide['changed'] = []
  const go = (node: Node): Node => {
    switch (node.kind) {
      case 'logic':
      case 'fan':
        if (node.kind === 'fan' && node.parts.some((part) => unitKnown(part))) break
        return { ...node, parts: node.parts.map(go) }
      case 'not':
        return { ...node, of: go(node.of) }
      case 'call':
        // Conditions inside: recently(…), on(1 day, …). Of numbers only the whole is turned.
        if (!unitKnown(node) && node.args.some((arg) => isCondition(arg)))
          return { ...node, args: node.args.map((arg) => (isCondition(arg) ? go(arg) : arg)) }
        break
      default:
    }
    const turned = turnCondition(node)
    const [from, to] = [print(node), print(turned)]
    if (from !== to) changed.push({ from, to })
    return turned
  }
  return { tree: go(spanless(tree)), changed }
}

const unitKnown = (node: Node): boolean => valueKinds.has(node.kind) && !isCondition(node)
const valueKinds = new Set<Node['kind']>([
  'number',
  'duration',
  'time',
  'text',
  'name',
  'call',
  'negate',
  'arith',
])

const CONDITION_CALLS = new Set(['recently', 'always', 'climbs', 'sinks', 'begins', 'certainly', 'reaches'])

function isCondition(node: Node): boolean {
  if (['compare', 'cross', 'between', 'logic', 'not'].includes(node.kind)) return true
  if (node.kind === 'fan') return node.each !== 'count'
  if (node.kind !== 'call' && node.kind !== 'name') return false
  if (CONDITION_CALLS.has(node.name)) return true
  if (node.kind === 'call' && (node.name === 'on' || node.name === 'beside')) return isCondition(node.args[1])
  const unit = INDICATORS.get(node.name)?.outputs[0].unit
  return unit === 'state' || unit === 'moment'
}

/** A condition that joins no others, turned round. */
function turnCondition(node: Node): Node {
  switch (node.kind) {
    case 'compare':
      if (!directed(node.left) && !directed(node.right)) return node
      return { ...node, op: FLIPPED[node.op], ...turnSides(node.left, node.right) }
    case 'cross':
      if (!directed(node.left) && !directed(node.right)) return node
      return { ...node, way: node.way === 'above' ? 'below' : 'above', ...turnSides(node.left, node.right) }
    case 'between': {
      if (![node.of, node.low, node.high].some(directed)) return node
      const about = mirrorOf(node.of)
      // The bounds change places with their sides.
      return {
        ...node,
        of: turn(node.of),
        low: turnLevel(node.high, about),
        high: turnLevel(node.low, about),
      }
    }
    case 'name':
    case 'call':
      return turn(node)
    default:
      return node
  }
}

function turnSides(left: Node, right: Node): { left: Node; right: Node } {
  const about = isPlain(right) ? mirrorOf(left) : isPlain(left) ? mirrorOf(right) : undefined
  return {
    left: isPlain(left) ? turnLevel(left, about) : turn(left),
    right: isPlain(right) ? turnLevel(right, about) : turn(right),
  }
}

const isPlain = (node: Node): boolean =>
  node.kind === 'number' || node.kind === 'time' || (node.kind === 'negate' && isPlain(node.of))

/** About which value a measure is mirrored: the middle of its bounds, nought, or none for a price. */
function mirrorOf(node: Node): number | undefined {
  const { low, high } = boundsOf(node)
  if (Number.isFinite(low) && Number.isFinite(high)) return (low + high) / 2
  for (const part of nodesOf(node)) {
    if ((part.kind === 'call' || part.kind === 'name') && ABOUT_NOUGHT.has(part.name)) return 0
    if (part.kind === 'arith' && part.op === '-' && isPrice(part.left) && isPrice(part.right)) return 0
  }
  return undefined
}

function turnLevel(node: Node, about: number | undefined): Node {
  if (about === undefined || !isPlain(node)) return isPlain(node) ? node : turn(node)
  const value = numberOf(node)
  const mirrored = rounded(2 * about - value)
  const unit = literalUnit(node)
  const number: Node = { kind: 'number', value: Math.abs(mirrored), unit }
  return mirrored < 0 ? { kind: 'negate', of: number } : number
}

const numberOf = (node: Node): number =>
  node.kind === 'negate'
    ? -numberOf(node.of)
    : node.kind === 'number'
      ? node.value
      : (node as { minutes: number }).minutes

const literalUnit = (node: Node): 'number' | 'price' | 'percent' | 'ticks' =>
  node.kind === 'negate' ? literalUnit(node.of) : node.kind === 'number' ? node.unit : 'number'

const ANY = { count: 1, unit: 'min' } as const
const isPrice = (node: Node): boolean => unitOf(node, ANY) === 'price'

/** Whether a value goes with the direction of the price. */
function directed(node: Node): boolean {
  switch (node.kind) {
    case 'name':
    case 'call': {
      if (node.name === 'uptrades' || node.name === 'downtrades') return true
      if (ABOUT_NOUGHT.has(node.name)) return true
      if (NO_DIRECTION.has(node.name))
        return node.kind === 'call' && OUTPUT_PAIRS.some((p) => p.includes(node.output ?? ''))
      const { low, high } = boundsOf(node)
      if (INDICATORS.get(node.name) && Number.isFinite(low) && Number.isFinite(high)) return true
      if (node.name === 'atr' || node.name === 'truerange' || node.name === 'deviation') return false
      if (node.kind === 'call' && ['earlier', 'on', 'beside', 'least', 'greatest', 'abs'].includes(node.name))
        return node.args.some(directed)
      return isPrice(node)
    }
    case 'negate':
      return directed(node.of)
    case 'arith':
      return directed(node.left) || directed(node.right)
    default:
      return false
  }
}

/** A value of the other side: high for low, the lower band for the upper, less for more. */
function turn(node: Node): Node {
  switch (node.kind) {
    case 'name':
      return { ...node, name: swap(PAIRS, node.name) }
    case 'call':
      return turnCall(node)
    case 'negate':
      return { ...node, of: turn(node.of) }
    case 'arith':
      return turnArith(node)
    case 'fan':
      return {
        ...node,
        parts: node.parts.map((part) => (isCondition(part) ? turnCondition(part) : turn(part))),
      }
    default:
      return node
  }
}

function turnCall(node: CallNode): Node {
  // The highest volume has no other side: only what is taken of a direction is turned.
  const series = node.args.filter((arg) => !isPlain(arg) && arg.kind !== 'duration' && arg.kind !== 'text')
  const neutral = series.length > 0 && !series.some((arg) => directed(arg) || isCondition(arg))
  if (neutral) return node
  const { output } = node
  return {
    ...node,
    name: swap(PAIRS, node.name),
    args: node.args.map((arg) =>
      isCondition(arg) ? (spreadFan(arg) ? turn(arg) : turnCondition(arg)) : turn(arg),
    ),
    ...(output === undefined ? {} : { output: swap(OUTPUT_PAIRS, output) }),
  }
}

/** A level so much above another becomes one so much below it; a multiple is mirrored about one. */
function turnArith(node: Extract<Node, { kind: 'arith' }>): Node {
  const { op, left, right } = node
  const turned = { ...node, left: turn(left), right: turn(right) }
  if (op === '+' || op === '-') {
    const distance = directed(left) && isDistance(right)
    return distance ? { ...turned, op: op === '+' ? '-' : '+' } : turned
  }
  if (
    op === '*' &&
    right.kind === 'number' &&
    right.unit === 'number' &&
    isPrice(left) &&
    !isDistance(left)
  ) {
    if (right.value > 0 && right.value < 2)
      return { ...turned, right: { ...right, value: rounded(2 - right.value) } }
  }
  return turned
}

/** A length in price, not a level: an average range, a plain amount, a share of something, a difference. */
function isDistance(node: Node): boolean {
  if (node.kind === 'number') return true
  if (node.kind === 'call' || node.kind === 'name')
    return ['atr', 'truerange', 'deviation', 'abs'].includes(node.name)
  if (node.kind !== 'arith') return false
  if (node.op === '-') return isPrice(node.left) && isPrice(node.right)
  if (node.op === '*') {
    const percent = [node.left, node.right].some((n) => n.kind === 'number' && n.unit === 'percent')
    return percent || isDistance(node.left) || (isDistance(node.right) && node.right.kind !== 'number')
  }
  return node.op === '/' && isDistance(node.left)
}
