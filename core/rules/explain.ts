import { INDICATORS } from '../indicators'
import { type Unit } from '../indicators/types'
import { sideOf } from '../market/paper'
import { type BarSource, ColumnMachine, currencyIn } from './exec/columns'
import { compile } from './exec/compile'
import { spreadFan } from './fan'
import { barsNeeded } from './needs'
import { print } from './print'
import { childrenOf, type Node } from './tree'
import { Typer } from './typer'
import { decimal } from '../market/money'
import { valueText } from './valueText'
import { UNKNOWN, type Verdict, verdictOf } from './verdict'
import { FUNCTIONS, NAMES, relation, SIGNS } from './words'

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

/** Why a part is unknown, in the words of the innermost one that is; undefined where it is known. */
export function whyUnknown(part: Part): string | undefined {
  if (part.verdict !== 'unknown') return undefined
  for (const inner of part.parts) {
    const why = whyUnknown(inner)
    if (why !== undefined) return why
  }
  return part.sentence.replace(/^unknown: /, '')
}

class Explainer {
  private readonly machine: ColumnMachine
  private readonly typer: Typer

  constructor(
    tree: Node,
    private readonly source: BarSource,
    private readonly row: number,
  ) {
    const { every } = source.base
    this.typer = new Typer(every)
    this.machine = new ColumnMachine(compile([tree, ...inner(tree)], every))
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
        ? `unknown: ${this.why(node)}`
        : this.sentence(node, verdict)
    return { text: print(node), verdict, sentence, values, short, parts }
  }

  /** What makes a part unknown, in the words of the innermost one that is. */
  private why(node: Node): string {
    const needs = barsNeeded(node)
    const has = this.row + 1
    if (needs > has) return `${print(node)} needs ${needs} bars, has ${has}`
    const word = node.kind === 'call' ? FUNCTIONS.get(node.name) : undefined
    const below = word?.moves ? undefined : childrenOf(node).find((child) => this.isUnknown(child))
    if (below) return this.why(below)
    return this.currencies(node) ?? `${print(node)} is not known here: ${unknownOf(node)}`
  }

  private isUnknown(node: Node): boolean {
    const value = this.machine.graph.valueOf(node)
    if (value === undefined) return false
    const { numbers, verdicts } = this.machine
    return Number.isNaN(numbers[value]?.[this.row] ?? 0) || verdicts[value]?.[this.row] === UNKNOWN
  }

  /** Where two sides are known and only their currencies differ. */
  private currencies(node: Node): string | undefined {
    if (node.kind === 'between') return this.differ(node.of, node.low) ?? this.differ(node.of, node.high)
    if (node.kind !== 'relate' && node.kind !== 'arith') return undefined
    return this.differ(node.left, node.right)
  }

  private differ(left: Node, right: Node): string | undefined {
    const same = this.typer.agreement(left, right)?.same
    const { currency, beside } = this.source
    const inIso = currencyIn(currency, (symbol) => beside?.(symbol)?.currency)
    const [one, other] = (same ?? []).map(inIso)
    if (one === undefined || other === undefined || one === other) return undefined
    return `${print(left)} is in ${one}, ${print(right)} in ${other}`
  }

  private verdict(node: Node): Verdict {
    const value = this.machine.graph.valueOf(node)
    return value === undefined ? 'unknown' : verdictOf(this.machine.verdicts[value]?.[this.row])
  }

  private value(node: Node, back = 0): number {
    if (node.kind === 'number') return node.value
    if (node.kind === 'time') return node.minutes
    if (node.kind === 'negate' && isConstant(node.of)) return -this.value(node.of)
    const value = this.machine.graph.valueOf(node)
    return value === undefined ? NaN : (this.machine.numbers[value]?.[this.row - back] ?? NaN)
  }

  private unit(node: Node): Unit {
    return this.typer.unitOf(node)
  }

  /** "close 48.21", or just "15" for a number that stands in the rule itself. */
  private named(node: Node, back = 0): string {
    if (isConstant(node)) return print(node)
    return `${print(node)} ${valueText(this.value(node, back), this.unit(node))}`
  }

  /** Two sides by name; with as many decimals as it takes to tell apart what differs. */
  private toldApart(left: Node, right: Node): [string, string] {
    const [a, b] = [this.value(left), this.value(right)]
    const units = [this.unit(left), this.unit(right)]
    const alike = a !== b && valueText(a, units[0]) === valueText(b, units[1])
    if (!alike || !units.every((unit) => unit === 'price' || unit === 'number'))
      return [this.named(left), this.named(right)]
    const decimals = FINER.find((digits) => decimal(a, digits) !== decimal(b, digits)) ?? FINER.at(-1)!
    const fine = (node: Node, value: number) =>
      isConstant(node) ? print(node) : `${print(node)} ${decimal(value, decimals)}`
    return [fine(left, a), fine(right, b)]
  }

  private sentence(node: Node, verdict: Verdict): string {
    const holds = verdict === 'holds'
    switch (node.kind) {
      case 'relate': {
        const side = sideOf(this.value(node.left), this.value(node.right))
        const [left, right] = this.toldApart(node.left, node.right)
        return relation(node.how).say(holds, left, right, side)
      }
      case 'between':
        return `${this.named(node.of)} is ${holds ? '' : 'not '}between ${this.named(node.low)} and ${this.named(node.high)}`
      case 'call': {
        const explains = FUNCTIONS.get(node.name)?.explains
        if (explains) return explains.say(holds, node, (of) => this.named(of))
        return `${print(node)} ${holds ? 'holds' : 'does not hold'}`
      }
      case 'name':
        return `${print(node)} ${holds ? 'holds' : 'does not hold'}`
      default:
        return `${print(node)}: ${verdict}`
    }
  }
}

/** Decimals beyond the usual two. */
const FINER = [3, 4, 5, 6, 8]

/** The numbers whose values make a condition what it is. */
function operands(node: Node): Node[] {
  if (spreadFan(node)) return []
  switch (node.kind) {
    case 'relate':
      return [node.left, node.right]
    case 'between':
      return [node.of, node.low, node.high]
    case 'call':
      // Of another security or timeframe, only the whole has a value here.
      if (FUNCTIONS.get(node.name)?.moves) return []
      return node.args
        .filter((arg) => arg.kind !== 'duration' && arg.kind !== 'text')
        .flatMap((arg) => (isCondition(arg) ? operands(arg) : [arg]))
    default:
      return []
  }
}

const isConstant = (node: Node): boolean =>
  node.kind === 'number' || node.kind === 'time' || (node.kind === 'negate' && isConstant(node.of))

const typer = new Typer({ count: 1, unit: 'min' })

const isCondition = (node: Node): boolean =>
  ['relate', 'between', 'logic', 'not', 'fan'].includes(node.kind) ||
  ((node.kind === 'call' || node.kind === 'name') && typer.isCondition(node))

/** What makes a part unknown, from the definition of its word. */
function unknownOf(node: Node): string {
  switch (node.kind) {
    case 'name':
    case 'call':
      return (NAMES.get(node.name) ?? FUNCTIONS.get(node.name) ?? INDICATORS.get(node.name))!.unknown
    case 'relate':
      return relation(node.how).unknown
    case 'arith':
      return SIGNS.get(node.op)!.unknown
    default:
      return SIGNS.get('between')!.unknown
  }
}

/** Everything that an explanation may ask the value of. */
function inner(node: Node): Node[] {
  const joined = spreadFan(node) ?? node
  const below = joined.kind === 'logic' ? joined.parts : joined.kind === 'not' ? [joined.of] : []
  const extra = node.kind === 'call' ? (FUNCTIONS.get(node.name)?.explains?.reads ?? []) : []
  return [
    ...operands(node).filter((of) => !isConstant(of)),
    ...extra,
    ...below.flatMap((part) => [part, ...inner(part)]),
  ]
}

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
        const moved = FUNCTIONS.get(node.name)?.moves
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

/** What decides a condition, part by part with its values: those that keep it from holding, or all of them. */
export function inParts(part: Part): string {
  const leaves = (of: Part): Part[] => (of.parts.length > 0 ? of.parts.flatMap(leaves) : [of])
  const all = leaves(part)
  const against = all.filter(({ verdict }) => verdict === part.verdict)
  const told = part.verdict === 'holds' || against.length === 0 ? all : against
  return told.map(({ sentence }) => sentence).join('; ')
}
