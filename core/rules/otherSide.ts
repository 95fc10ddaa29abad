import { INDICATORS } from '../indicators'
import { type Goes, type Opposite } from '../indicators/types'
import { spreadFan } from './fan'
import { boundsOf } from './hints'
import { print } from './print'
import { type CallNode, type Node } from './tree'
import { Typer } from './typer'
import { spanless, nodesOf } from './walk'
import { FUNCTIONS, NAMES, relation } from './words'

/**
 * The opposite of a rule for the other direction of the market: above becomes below, high becomes low, upper becomes
 * lower, 30 becomes 70 about the middle of a bounded measure, a distance above nought becomes one below. What has no
 * direction (volume, ranges, times of day, company figures) stays. Done twice, it gives the rule back. What each word
 * becomes is told by its definition.
 */
export interface OtherSide {
  tree: Node
  /** Each smallest condition that was changed, before and after. */
  changed: { from: string; to: string }[]
}

export function otherSide(tree: Node): OtherSide {
  const turning = new Turning()
  return { tree: turning.rule(spanless(tree)), changed: turning.changed }
}

/** A price of the other side: high for low, so much below for so much above; what has no direction stays. */
export const otherLevel = (tree: Node): Node => new Turning().turn(spanless(tree))

/** What a definition says of the other side of a name, with or without arguments. */
const oppositeOf = (name: string): Opposite | undefined =>
  (NAMES.get(name) ?? FUNCTIONS.get(name) ?? INDICATORS.get(name))?.opposite

/** How an output of a word goes with the price. */
function goes(node: Node): Goes | undefined {
  if (node.kind !== 'name' && node.kind !== 'call') return undefined
  const opposite = oppositeOf(node.name)
  const indicator = INDICATORS.get(node.name)
  const output = (node.kind === 'call' ? node.output : undefined) ?? indicator?.outputs[0].name ?? ''
  return opposite?.each?.[output] ?? opposite?.goes
}

const rounded = (x: number): number => Number(x.toPrecision(12))

const isPlain = (node: Node): boolean =>
  node.kind === 'number' || node.kind === 'time' || (node.kind === 'negate' && isPlain(node.of))

class Turning {
  readonly changed: OtherSide['changed'] = []
  private readonly typer = new Typer({ count: 1, unit: 'min' })

  private isCondition(node: Node): boolean {
    return this.typer.isCondition(node)
  }

  private isPrice(node: Node): boolean {
    return this.typer.unitOf(node) === 'price'
  }

  rule(node: Node): Node {
    if (node.kind === 'logic' || (node.kind === 'fan' && !node.parts.some((part) => this.isValue(part))))
      return { ...node, parts: node.parts.map((part) => this.rule(part)) }
    if (node.kind === 'not') return { ...node, of: this.rule(node.of) }
    // Conditions inside: recently(…), on(1 day, …). Of numbers only the whole is turned.
    if (node.kind === 'call' && this.isCondition(node) && node.args.some((arg) => this.isCondition(arg)))
      return { ...node, args: node.args.map((arg) => (this.isCondition(arg) ? this.rule(arg) : arg)) }
    const turned = this.condition(node)
    const [from, to] = [print(node), print(turned)]
    if (from !== to) this.changed.push({ from, to })
    return turned
  }

  private isValue(node: Node): boolean {
    return !['relate', 'between', 'logic', 'not', 'fan'].includes(node.kind) && !this.isCondition(node)
  }

  /** A condition that joins no others, turned round. */
  private condition(node: Node): Node {
    switch (node.kind) {
      case 'relate': {
        if (!this.directed(node.left) && !this.directed(node.right)) return node
        const how = relation(node.how).opposite.name ?? node.how
        return { ...node, how, ...this.sides(node.left, node.right) }
      }
      case 'between': {
        if (![node.of, node.low, node.high].some((part) => this.directed(part))) return node
        const about = this.mirrorOf(node.of)
        // The bounds change places with their sides.
        return {
          ...node,
          of: this.turn(node.of),
          low: this.level(node.high, about),
          high: this.level(node.low, about),
        }
      }
      case 'name':
      case 'call':
        return this.turn(node)
      default:
        return node
    }
  }

  private sides(left: Node, right: Node): { left: Node; right: Node } {
    const about = isPlain(right) ? this.mirrorOf(left) : isPlain(left) ? this.mirrorOf(right) : undefined
    const side = (node: Node) => (isPlain(node) ? this.level(node, about) : this.turn(node))
    return { left: side(left), right: side(right) }
  }

  /** About which value a measure is mirrored: the middle of its bounds, nought, or none for a price. */
  private mirrorOf(node: Node): number | undefined {
    const { low, high } = boundsOf(node)
    if (Number.isFinite(low) && Number.isFinite(high)) return (low + high) / 2
    for (const part of nodesOf(node)) {
      if (goes(part) === 'about nought') return 0
      if (part.kind === 'arith' && part.op === '-' && this.isPrice(part.left) && this.isPrice(part.right))
        return 0
    }
    return undefined
  }

  private level(node: Node, about: number | undefined): Node {
    if (!isPlain(node)) return this.turn(node)
    if (about === undefined) return node
    const mirrored = rounded(2 * about - numberOf(node))
    const { unit, currency } = literalOf(node)
    const number: Node = {
      ...{ kind: 'number', value: Math.abs(mirrored), unit },
      ...(currency ? { currency } : {}),
    }
    return mirrored < 0 ? { kind: 'negate', of: number } : number
  }

  /** Whether a value goes with the direction of the price. */
  private directed(node: Node): boolean {
    switch (node.kind) {
      case 'name':
      case 'call': {
        const way = goes(node)
        if (way === 'about nought') return true
        if (way === 'between bounds') return true
        if (way === 'neither way') return false
        if (way === 'inside') return node.kind === 'call' && node.args.some((arg) => this.directed(arg))
        return this.isPrice(node)
      }
      case 'negate':
        return this.directed(node.of)
      case 'arith':
        return this.directed(node.left) || this.directed(node.right)
      default:
        return false
    }
  }

  /** A value of the other side: high for low, the lower band for the upper, less for more. */
  turn(node: Node): Node {
    switch (node.kind) {
      case 'name':
        return { ...node, name: oppositeOf(node.name)?.name ?? node.name }
      case 'call':
        return this.call(node)
      case 'negate':
        return { ...node, of: this.turn(node.of) }
      case 'arith':
        return this.arith(node)
      case 'fan':
        return {
          ...node,
          parts: node.parts.map((part) => (this.isCondition(part) ? this.condition(part) : this.turn(part))),
        }
      default:
        return node
    }
  }

  private call(node: CallNode): Node {
    // The highest volume has no other side: only what is taken of a direction is turned.
    const series = node.args.filter((arg) => !isPlain(arg) && arg.kind !== 'duration' && arg.kind !== 'text')
    const neutral = series.length > 0 && !series.some((arg) => this.directed(arg) || this.isCondition(arg))
    if (neutral) return node
    const opposite = oppositeOf(node.name)
    const { output } = node
    const pair = opposite?.outputs?.find((two) => output !== undefined && two.includes(output))
    return {
      ...node,
      name: opposite?.name ?? node.name,
      args: node.args.map((arg) =>
        this.isCondition(arg) && !spreadFan(arg) ? this.condition(arg) : this.turn(arg),
      ),
      ...(pair ? { output: pair[0] === output ? pair[1] : pair[0] } : {}),
    }
  }

  /** A level so much above another becomes one so much below it; a multiple is mirrored about one. */
  private arith(node: Extract<Node, { kind: 'arith' }>): Node {
    const { op, left, right } = node
    const turned = { ...node, left: this.turn(left), right: this.turn(right) }
    if (op === '+' || op === '-') {
      const distance = this.directed(left) && this.isDistance(right)
      return distance ? { ...turned, op: op === '+' ? '-' : '+' } : turned
    }
    const factor = right.kind === 'number' && right.unit === 'number' ? right.value : NaN
    const level = op === '*' && this.isPrice(left) && !this.isDistance(left)
    return level && factor > 0 && factor < 2
      ? { ...turned, right: { ...right, value: rounded(2 - factor) } as Node }
      : turned
  }

  /** A length in price, not a level: an average range, a plain amount, a share of something, a difference. */
  private isDistance(node: Node): boolean {
    if (node.kind === 'number') return true
    if (node.kind === 'call' || node.kind === 'name') return oppositeOf(node.name)?.distance === true
    if (node.kind !== 'arith') return false
    if (node.op === '-') return this.isPrice(node.left) && this.isPrice(node.right)
    if (node.op === '*') {
      const percent = [node.left, node.right].some((n) => n.kind === 'number' && n.unit === 'percent')
      return (
        percent || this.isDistance(node.left) || (this.isDistance(node.right) && node.right.kind !== 'number')
      )
    }
    return node.op === '/' && this.isDistance(node.left)
  }
}

const numberOf = (node: Node): number =>
  node.kind === 'negate'
    ? -numberOf(node.of)
    : node.kind === 'number'
      ? node.value
      : (node as { minutes: number }).minutes

const literalOf = (node: Node): Pick<Extract<Node, { kind: 'number' }>, 'unit' | 'currency'> =>
  node.kind === 'negate' ? literalOf(node.of) : node.kind === 'number' ? node : { unit: 'number' }
