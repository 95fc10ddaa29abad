import { type Unit } from '../indicators/types'
import { sideOf } from '../market/paper'
import { type Timeframe } from '../market/timeframe'
import { barsNeeded, checkTree, unitOf } from './check'
import { compile } from './compile'
import { spreadFan } from './fan'
import { type BarSource, Machine } from './machine'
import { print } from './print'
import { type Node } from './tree'
import { valueText } from './valueText'
import { type Verdict, verdictOf } from './verdict'

/** One part of a rule on one bar: its verdict, the values that gave it, and that as a sentence. */
export interface Part {
  text: string
  verdict: Verdict
  sentence: string
  values: { text: string; value: number; unit: Unit }[]
  /** Set where bars are missing: how many the part needs and how many there are. */
  short?: { needs: number; has: number }
  parts: Part[]
}

/**
 * Why a rule holds or fails on a bar: the parts that are joined by its outermost "and" or "or", each with its
 * values. `row` counts from 0; the last bar where left out. The tree must have passed the checker.
 */
export function explain(tree: Node, source: BarSource, row = source.base.time.length - 1): Part {
  return new Explainer(tree, source, row).part(tree)
}

class Explainer {
  private readonly machine: Machine
  private readonly every: Timeframe

  constructor(
    tree: Node,
    source: BarSource,
    private readonly row: number,
  ) {
    this.every = source.base.every
    this.machine = new Machine(compile([tree, ...inner(tree)], this.every))
    this.machine.run(source)
  }

  part(node: Node): Part {
    const verdict = this.verdict(node)
    const values = operands(node)
      .filter((of) => !isConstant(of))
      .map((of) => ({ text: print(of), value: this.value(of), unit: this.unit(of) }))
    const joined = spreadFan(node) ?? node
    const parts =
      joined.kind === 'logic'
        ? joined.parts.map((p) => this.part(p))
        : node.kind === 'not'
          ? [this.part(node.of)]
          : []
    const needs = barsNeeded(node)
    const has = this.row + 1
    const short = verdict === 'unknown' && needs > has ? { needs, has } : undefined
    const sentence = short
      ? `unknown: ${print(node)} needs ${needs} bars, has ${has}`
      : verdict === 'unknown' && parts.length === 0
        ? `unknown: ${
            values
              .filter((v) => Number.isNaN(v.value))
              .map((v) => v.text)
              .join(' and ') || print(node)
          } is not known here`
        : this.sentence(node, verdict)
    return { text: print(node), verdict, sentence, values, short, parts }
  }

  private verdict(node: Node): Verdict {
    const register = this.machine.program.registerOf(node)
    return register === undefined ? 'unknown' : verdictOf(this.machine.verdicts[register]?.[this.row])
  }

  private value(node: Node, back = 0): number {
    if (node.kind === 'number') return node.value
    if (node.kind === 'time') return node.minutes
    if (node.kind === 'negate' && isConstant(node.of)) return -this.value(node.of)
    const register = this.machine.program.registerOf(node)
    return register === undefined ? NaN : (this.machine.numbers[register]?.[this.row - back] ?? NaN)
  }

  private unit(node: Node): Unit {
    return unitOf(node, this.every)
  }

  /** "close 48.21", or just "15" for a number that stands in the rule itself. */
  private named(node: Node, back = 0): string {
    if (isConstant(node)) return print(node)
    return `${print(node)} ${valueText(this.value(node, back), this.unit(node))}`
  }

  private sentence(node: Node, verdict: Verdict): string {
    const holds = verdict === 'holds'
    switch (node.kind) {
      case 'compare': {
        const words = {
          '>': 'above',
          '<': 'below',
          '>=': 'at or above',
          '<=': 'at or below',
          '=': 'equal to',
        }[node.op]
        return `${this.named(node.left)} is ${holds ? '' : 'not '}${words} ${this.named(node.right)}`
      }
      case 'cross': {
        if (holds) return `${this.named(node.left)} crossed ${node.way} ${this.named(node.right)}`
        const sign = node.way === 'above' ? 1 : -1
        const [left, right] = [this.value(node.left), this.value(node.right)]
        const past = sign * sideOf(left, right) > 0
        return past
          ? `${this.named(node.left)} was ${node.way} ${this.named(node.right)} already on the bar before`
          : `${this.named(node.left)} is not ${node.way} ${this.named(node.right)}`
      }
      case 'between':
        return `${this.named(node.of)} is ${holds ? '' : 'not '}between ${this.named(node.low)} and ${this.named(node.high)}`
      case 'call':
        if (node.name === 'reaches') {
          return `${this.named(node.args[0])} is ${holds ? '' : 'not '}within the bar, ${this.named({ kind: 'name', name: 'low' })} to ${this.named({ kind: 'name', name: 'high' })}`
        }
        return `${print(node)} ${holds ? 'holds' : 'does not hold'}`
      case 'name':
        return `${print(node)} ${holds ? 'holds' : 'does not hold'}`
      default:
        return `${print(node)}: ${verdict}`
    }
  }
}

/** The numbers whose values make a condition what it is. */
function operands(node: Node): Node[] {
  if (spreadFan(node)) return []
  switch (node.kind) {
    case 'compare':
    case 'cross':
      return [node.left, node.right]
    case 'between':
      return [node.of, node.low, node.high]
    case 'call':
      // Of another security or timeframe, only the whole has a value here.
      if (node.name === 'on' || node.name === 'beside') return []
      return node.args
        .filter((arg) => arg.kind !== 'duration' && arg.kind !== 'text')
        .flatMap((arg) => (isCondition(arg) ? operands(arg) : [arg]))
    default:
      return []
  }
}

const isConstant = (node: Node): boolean =>
  node.kind === 'number' || node.kind === 'time' || (node.kind === 'negate' && isConstant(node.of))

const isCondition = (node: Node): boolean =>
  ['compare', 'cross', 'between', 'logic', 'not', 'fan'].includes(node.kind) ||
  ((node.kind === 'call' || node.kind === 'name') &&
    checkTree(node, { count: 1, unit: 'min' }).type?.is === 'yes/no')

/** Everything that an explanation may ask the value of. */
function inner(node: Node): Node[] {
  const joined = spreadFan(node) ?? node
  const below = joined.kind === 'logic' ? joined.parts : joined.kind === 'not' ? [joined.of] : []
  const extra: Node[] =
    node.kind === 'call' && node.name === 'reaches'
      ? [
          { kind: 'name', name: 'low' },
          { kind: 'name', name: 'high' },
        ]
      : []
  return [
    ...operands(node).filter((of) => !isConstant(of)),
    ...extra,
    ...below.flatMap((part) => [part, ...inner(part)]),
  ]
}

/** Words under which a condition is asked elsewhere than on the bars themselves. */
const MOVES: ReadonlySet<string> = new Set(['on', 'beside', 'earlier'])

/** The numbers that a rule looks at, each once, in reading order: the columns that show why it held. */
export function measuresIn(tree: Node): Node[] {
  const found = new Map<string, Node>()
  const visit = (node: Node, as: (of: Node) => Node): void => {
    const below = (of: Node) => visit(of, as)
    const spread = spreadFan(node)
    if (spread) below(spread)
    else if (node.kind === 'logic') node.parts.forEach(below)
    else if (node.kind === 'not') below(node.of)
    else if (node.kind === 'call' && node.args.some(isCondition))
      node.args.forEach((arg, i) => {
        if (!isCondition(arg)) return
        // On other bars, of another security or earlier, a number is another one: it stays under its word.
        const moved = MOVES.has(node.name)
        visit(arg, moved ? (of) => as({ ...node, args: node.args.with(i, of) }) : as)
      })
    else
      for (const of of operands(node)) {
        if (!isConstant(of)) found.set(print(as(of)), as(of))
      }
  }
  visit(tree, (of) => of)
  return [...found.values()]
}
