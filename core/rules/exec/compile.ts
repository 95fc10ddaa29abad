import { INDICATORS } from '../../indicators'
import { type ColumnName } from '../../market/columns'
import { type Timeframe, timeframeText } from '../../market/timeframe'
import { spreadFan } from '../fan'
import { print } from '../print'
import { resolveCall } from '../resolve'
import { sizesOf } from '../sizes'
import { type CallNode, type Node } from '../tree'
import { homeOf, Typer } from '../typer'
import { heldFactor, OWN } from '../units'
import { FUNCTIONS, NAMES, relation, sign } from '../words'
import { scaled } from '../words/arithmetic'
import { type FunctionWord, type Site } from '../words/types'
import { type Form } from './form'
import { type Frame, type Graph, type Operation, type Value } from './graph'
import { ANSWERS, finerFrame, fingerprintOf, GUARD, overIndicator, SIZES } from './plumbing'
import { type Source, sourceKey } from './source'

/** Compiles trees that have passed the checker. Throws Error on a tree that it would refuse. */
export function compile(trees: readonly Node[], every: Timeframe): Graph {
  const making = new Making(every)
  const base = making.site({ every })
  const results = trees.map((tree) => base.of(tree))
  const { frames, values, operations, known } = making
  return {
    frames,
    values,
    operations,
    results,
    valueOf: (node) => known.get(`0|${print(node)}`),
    valueOfSource: (source) => known.get(`0|source ${sourceKey(source)}`),
    fingerprint: fingerprintOf([JSON.stringify(frames), ...known.keys()].join('\n')),
  }
}

/** What all sites of one graph share. */
class Making {
  readonly frames: Frame[] = []
  readonly values: Value[] = []
  readonly operations: Operation[] = []
  /** Values by frame and what makes them, so that each is made once. */
  readonly known = new Map<string, number>()
  readonly typer: Typer
  private readonly sites: Place[] = []

  constructor(every: Timeframe) {
    this.typer = new Typer(every)
  }

  site({ every, beside }: Frame): Place {
    const text = timeframeText(every)
    const at = this.frames.findIndex((f) => timeframeText(f.every) === text && f.beside === beside)
    if (at >= 0) return this.sites[at]
    const frame = this.frames.push(beside === undefined ? { every } : { every, beside }) - 1
    return (this.sites[frame] = new Place(this, frame, every, beside))
  }
}

/** The graph as it is seen from one frame: what definitions ask to make their part of it. */
class Place implements Site {
  constructor(
    private readonly making: Making,
    readonly frame: number,
    readonly every: Timeframe,
    readonly beside: string | undefined,
  ) {}

  private get home(): string {
    return this.beside === undefined ? OWN : homeOf(this.beside)
  }

  /** The value known under a key on this frame, or made now. */
  private once(key: string, make: () => number): number {
    const { known } = this.making
    const name = `${this.frame}|${key}`
    let value = known.get(name)
    if (value === undefined) known.set(name, (value = make()))
    return value
  }

  private value(holds: Value['holds']): number {
    return this.making.values.push({ frame: this.frame, holds }) - 1
  }

  of(node: Node): number {
    return this.once(print(node), () => this.make(node))
  }

  isCondition(node: Node): boolean {
    return this.making.typer.isCondition(node, this.home)
  }

  isPrice(node: Node): boolean {
    return this.making.typer.unitOf(node, this.home) === 'price'
  }

  private constant(x: number): number {
    const out = this.value('numbers')
    this.making.operations.push({ kind: 'constant', out, value: x })
    return out
  }

  column(name: ColumnName): number {
    return this.source({ of: 'bars', column: name })
  }

  source(source: Source): number {
    return this.once(`source ${sourceKey(source)}`, () => {
      const out = this.value('numbers')
      this.making.operations.push({ kind: 'source', out, source })
      return out
    })
  }

  form(name: string, holds: Value['holds'], form: Form, ins: readonly number[]): number {
    return this.forms(name, holds, form, ins, 1)
  }

  private forms(
    name: string,
    holds: Value['holds'],
    form: Form,
    ins: readonly number[],
    count: number,
  ): number {
    return this.once(`${name} (${ins.join()})`, () => {
      const outs = Array.from({ length: count }, () => this.value(holds))
      this.making.operations.push({ kind: 'form', outs, ins, form })
      return outs[0]
    })
  }

  private make(node: Node): number {
    const spread = spreadFan(node)
    if (spread) return this.of(spread)
    switch (node.kind) {
      case 'number':
        return this.constant(node.value)
      case 'time':
        return this.constant(node.minutes)
      case 'name': {
        const word = NAMES.get(node.name)
        if (!word) return this.indicator({ kind: 'call', name: node.name, args: [] })
        const value = this.source(word.from)
        return word.unit === 'state' ? this.asVerdicts(value) : value
      }
      case 'call':
        return this.call(node)
      case 'negate':
        return this.form('-', 'numbers', scaled(-1), [this.of(node.of)])
      case 'arith':
        return this.arith(node)
      case 'relate':
        return this.relate(node)
      case 'between': {
        const { paper, ins } = this.paper([node.of, node.low, node.high])
        const [of, low] = this.brought(node.of, node.low)
        const [again, high] = this.brought(node.of, node.high)
        const form = sign('between').means.form({ count: 3, paper })
        // A ratio that one bound, a percentage, brings to hundredths is so for both (see units).
        const value = of === this.of(node.of) ? again : of
        const sides = [value, low, high]
        return this.form(paperName('between', paper), 'verdicts', form, [...sides, ...ins])
      }
      case 'logic': {
        const [first, ...rest] = node.parts.map((part) => this.of(part))
        const form = sign(node.op).means.form({ count: 2 })
        return rest.reduce((left, right) => this.form(node.op, 'verdicts', form, [left, right]), first)
      }
      case 'fan': {
        const ins = node.parts.map((part) => this.of(part))
        return this.form('count of', 'numbers', sign('count of').means.form({ count: ins.length }), ins)
      }
      case 'not':
        return this.form('not', 'verdicts', sign('not').means.form({ count: 1 }), [this.of(node.of)])
      default:
        throw refused(node)
    }
  }

  private asVerdicts(numbers: number): number {
    return this.form('answers', 'verdicts', ANSWERS, [numbers])
  }

  /** The two sides of a sum or comparison, brought to one unit, and to unknown where their currencies differ. */
  brought(left: Node, right: Node): [number, number] {
    const agreed = this.making.typer.agreement(left, right, this.home)
    const [a, b] = [this.of(left), this.of(right)]
    if (!agreed) return [a, b]
    const [x, y] = agreed.factors
    const times = (value: number, factor: number) =>
      factor === 1 ? value : this.form(`times ${factor}`, 'numbers', scaled(factor), [value])
    const brought = times(b, y)
    if (!agreed.same) return [times(a, x), brought]
    const [one, other] = agreed.same
    const known = this.source({ of: 'currency', left: one, right: other })
    return [times(a, x), this.form('same currency', 'numbers', GUARD, [brought, known])]
  }

  private relate({ how, left, right }: Extract<Node, { kind: 'relate' }>): number {
    const { means } = relation(how)
    if ('graph' in means) return means.graph(left, right, this)
    const { paper, ins } = this.paper([left, right])
    return this.form(paperName(how, paper), 'verdicts', means.form(paper), [
      ...this.brought(left, right),
      ...ins,
    ])
  }

  private arith(node: Extract<Node, { kind: 'arith' }>): number {
    const { op, left, right } = node
    const { typer } = this.making
    const form = sign(op).means.form({ count: 2 })
    if (op === '+' || op === '-') return this.form(op, 'numbers', form, this.brought(left, right))
    const out = this.form(op, 'numbers', form, [this.of(left), this.of(right)])
    const [a, b] = [typer.typeOf(left, this.home), typer.typeOf(right, this.home)]
    const factor = a?.is === 'number' && b?.is === 'number' ? heldFactor(op, a.unit, b.unit) : 1
    return factor === 1 ? out : this.form(`times ${factor}`, 'numbers', scaled(factor), [out])
  }

  paper(sides: readonly Node[]): { paper: { sized: boolean; least: number } | undefined; ins: number[] } {
    const sizes = sizesOf(sides, (node) => this.making.typer.unitOf(node, this.home))
    if (!sizes) return { paper: undefined, ins: [] }
    const all = new Set(sizes.of.map((part) => this.of(part)))
    if (sizes.close) all.add(this.column('close'))
    // The sides themselves tell their size anyway.
    for (const side of sides) all.delete(this.of(side))
    const ins = [...all].sort((a, b) => a - b)
    const sized =
      ins.length === 0 ? [] : [ins.length === 1 ? ins[0] : this.form('sizes', 'numbers', SIZES, ins)]
    return { paper: { sized: sized.length > 0, least: sizes.least }, ins: sized }
  }

  private call(node: CallNode): number {
    const word = FUNCTIONS.get(node.name)
    if (!word) return this.indicator(node)
    return 'graph' in word.means ? word.means.graph(node, this) : this.function(node, word, word.means)
  }

  private function(
    node: CallNode,
    word: FunctionWord,
    means: Exclude<FunctionWord['means'], { graph: unknown }>,
  ): number {
    const counts = node.args.flatMap((arg) => (arg.kind === 'duration' ? [arg.count] : []))
    const values = node.args.filter((arg) => arg.kind !== 'duration')
    const { paper, ins } = means.compares ? this.paper(values) : { paper: undefined, ins: [] }
    const holds = this.isCondition(node) ? 'verdicts' : 'numbers'
    const name = paperName([word.name, ...counts].join(' '), paper)
    return this.form(name, holds, means.form(counts, paper), [...values.map((arg) => this.of(arg)), ...ins])
  }

  indicator(node: CallNode): number {
    const indicator = INDICATORS.get(node.name)
    const call = indicator && resolveCall(node, indicator)
    if (!indicator || !call || 'code' in call) throw refused(node)
    const { params } = call
    const finer = finerFrame(indicator, params, this.every)
    if (finer) {
      const there = this.on(finer)
      return this.across(there, (there as Place).indicator(node))
    }
    const { input, outputs } = indicator
    const ins =
      typeof input === 'string'
        ? call.series.map((series) => this.of(series))
        : input.map((name) => this.column(name))
    const form = overIndicator(indicator, params)
    const first = this.forms(`${indicator.name} ${params.join()}`, 'numbers', form, ins, outputs.length)
    const { unit } = outputs[call.output]
    return unit === 'state' || unit === 'moment' ? this.asVerdicts(first + call.output) : first + call.output
  }

  on(every: Timeframe): Site {
    return this.making.site({ every, beside: this.beside })
  }

  besides(symbol: string): Site {
    return this.making.site({ every: this.every, beside: symbol })
  }

  across(_there: Site, value: number): number {
    return this.moved(value, 'completed', 0)
  }

  before(_there: Site, value: number, count: number): number {
    return this.moved(value, 'before', count)
  }

  private moved(of: number, way: 'completed' | 'before', count: number): number {
    return this.once(`${way} ${count} (${of})`, () => {
      const out = this.value(this.making.values[of].holds)
      this.making.operations.push({ kind: 'across', out, of, way, count })
      return out
    })
  }
}

const paperName = (name: string, paper: { sized: boolean; least: number } | undefined): string =>
  paper ? `${name} about ${paper.least}` : name

const refused = (node: Node): Error => new Error(`"${print(node)}" cannot be computed; check the rule first`)
