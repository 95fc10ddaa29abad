import { INDICATORS } from '../indicators'
import { type Timeframe, timeframeText } from '../market/timeframe'
import { isSeries } from './catalogue'
import { unitOf } from './check'
import * as kernel from './kernels'
import { print } from './print'
import { type Columns, type Program, type Register } from './program'
import { resolveCall } from './resolve'
import { type CallNode, type DurationUnit, type Node } from './tree'
import { percentFactor } from './units'

/** Compiles checked trees. Throws Error on a tree that the checker would refuse. */
export function compile(trees: readonly Node[], every: Timeframe): Program {
  const compiler = new Compiler(every)
  const results = trees.map((tree) => compiler.compile(tree, 0))
  return {
    frames: compiler.frames,
    registers: compiler.registers,
    steps: compiler.steps,
    results,
    registerOf: (node) => compiler.known.get(`0|${print(node)}`),
  }
}

class Compiler {
  readonly frames: Timeframe[]
  readonly registers: Register[] = []
  readonly steps: ((columns: Columns) => void)[] = []
  readonly known = new Map<string, number>()

  constructor(private readonly every: Timeframe) {
    this.frames = [every]
  }

  compile(node: Node, frame: number): number {
    const key = `${frame}|${print(node)}`
    const before = this.known.get(key)
    if (before !== undefined) return before
    const register = this.make(node, frame)
    this.known.set(key, register)
    return register
  }

  private numbers(frame: number): number {
    return this.registers.push({ frame, holds: 'numbers' }) - 1
  }

  private verdicts(frame: number): number {
    return this.registers.push({ frame, holds: 'verdicts' }) - 1
  }

  private make(node: Node, frame: number): number {
    switch (node.kind) {
      case 'number': {
        return this.registers.push({ frame, holds: 'numbers', constant: node.value }) - 1
      }
      case 'name':
        if (isSeries(node.name))
          return this.registers.push({ frame, holds: 'numbers', series: node.name }) - 1
        return this.indicator({ kind: 'call', name: node.name, args: [] }, frame)
      case 'call':
        return this.call(node, frame)
      case 'negate':
        return this.unary(node.of, frame, (a, out) => kernel.scaled(a, -1, out))
      case 'arith':
        return this.arith(node, frame)
      case 'compare':
        return this.verdict([node.left, node.right], frame, ([a, b], out) =>
          kernel.compare(node.op, a, b, out),
        )
      case 'cross':
        return this.verdict([node.left, node.right], frame, ([a, b], out) =>
          kernel.crosses(node.way, a, b, out),
        )
      case 'between':
        return this.verdict([node.of, node.low, node.high], frame, ([a, b, c], out) =>
          kernel.between(a, b, c, out),
        )
      case 'logic': {
        const join = node.op === 'and' ? kernel.both : kernel.either
        const [first, ...rest] = node.parts.map((part) => this.compile(part, frame))
        return rest.reduce((left, right) => {
          const out = this.verdicts(frame)
          this.steps.push((m) => join(m.verdicts[left], m.verdicts[right], m.verdicts[out]))
          return out
        }, first)
      }
      case 'not':
        return this.condition(node.of, frame, kernel.not)
      default:
        throw new Error(`"${print(node)}" cannot be computed; check the rule first`)
    }
  }

  private unary(of: Node, frame: number, run: (a: Float64Array, out: Float64Array) => void): number {
    const a = this.compile(of, frame)
    const out = this.numbers(frame)
    this.steps.push((m) => run(m.numbers[a], m.numbers[out]))
    return out
  }

  private verdict(parts: Node[], frame: number, run: (ins: Float64Array[], out: Uint8Array) => void): number {
    const ins = parts.map((part) => this.compile(part, frame))
    const out = this.verdicts(frame)
    this.steps.push((m) =>
      run(
        ins.map((r) => m.numbers[r]),
        m.verdicts[out],
      ),
    )
    return out
  }

  private condition(of: Node, frame: number, run: (a: Uint8Array, out: Uint8Array) => void): number {
    const a = this.compile(of, frame)
    const out = this.verdicts(frame)
    this.steps.push((m) => run(m.verdicts[a], m.verdicts[out]))
    return out
  }

  private arith(node: Extract<Node, { kind: 'arith' }>, frame: number): number {
    const left = this.compile(node.left, frame)
    const right = this.compile(node.right, frame)
    const out = this.numbers(frame)
    const { op } = node
    this.steps.push((m) => kernel.arith(op, m.numbers[left], m.numbers[right], m.numbers[out]))
    const factor = percentFactor(op, unitOf(node.left, this.every), unitOf(node.right, this.every))
    if (factor === 1) return out
    const brought = this.numbers(frame)
    this.steps.push((m) => kernel.scaled(m.numbers[out], factor, m.numbers[brought]))
    return brought
  }

  private call(node: CallNode, frame: number): number {
    const [first, second] = node.args
    switch (node.name) {
      case 'earlier':
        return this.earlier(first, second, frame)
      case 'on':
        return this.on(first, second, frame)
      case 'abs':
        return this.unary(first, frame, kernel.absolute)
      case 'recently':
        return this.condition(first, frame, (a, out) => kernel.recently(a, countOf(second), out))
      case 'always':
        return this.condition(first, frame, (a, out) => kernel.always(a, countOf(second), out))
      case 'climbs':
        return this.verdict([first], frame, ([a], out) => kernel.runs(a, countOf(second), 1, out))
      case 'sinks':
        return this.verdict([first], frame, ([a], out) => kernel.runs(a, countOf(second), -1, out))
      case 'begins':
        return this.condition(first, frame, kernel.begins)
      case 'reaches':
        return this.verdict(
          [first, { kind: 'name', name: 'low' }, { kind: 'name', name: 'high' }],
          frame,
          ([level, low, high], out) => kernel.between(level, low, high, out),
        )
      default:
        return this.indicator(node, frame)
    }
  }

  private indicator(node: CallNode, frame: number): number {
    const indicator = INDICATORS.get(node.name)
    if (!indicator) throw new Error(`"${node.name}" is not known; check the rule first`)
    const call = resolveCall(node, indicator)
    if ('code' in call) throw new Error(`"${print(node)}" cannot be computed; check the rule first`)
    const inputs: Node[] =
      indicator.input === 'series' ? [call.series!] : indicator.input.map((name) => ({ kind: 'name', name }))
    const key = `${frame}|${indicator.name}|${inputs.map(print).join()}|${call.params.join()}`
    let first = this.known.get(key)
    if (first === undefined) {
      const ins = inputs.map((input) => this.compile(input, frame))
      const outs = indicator.outputs.map(() => this.numbers(frame))
      const { params } = call
      this.steps.push((m) =>
        indicator.column(
          ins.map((r) => m.numbers[r]),
          params,
          outs.map((r) => m.numbers[r]),
        ),
      )
      first = outs[0]
      this.known.set(key, first)
    }
    return first + call.output
  }

  private frameOf(every: Timeframe): number {
    const text = timeframeText(every)
    const at = this.frames.findIndex((frame) => timeframeText(frame) === text)
    return at >= 0 ? at : this.frames.push(every) - 1
  }

  private earlier(of: Node, span: Node, frame: number): number {
    const count = countOf(span)
    const unit = (span as { unit: DurationUnit }).unit
    const target = unit === 'bar' ? frame : this.frameOf({ count: 1, unit })
    if (target === frame) return this.unary(of, frame, (a, out) => kernel.shifted(a, count, out))
    const inner = this.compile(of, target)
    const out = this.numbers(frame)
    this.steps.push((m) =>
      kernel.gathered(m.numbers[inner], m.rowsHolding(frame, target), count, m.numbers[out]),
    )
    return out
  }

  private on(span: Node, of: Node, frame: number): number {
    const { count, unit } = span as { count: number; unit: DurationUnit }
    if (unit === 'bar') throw new Error('A timeframe is not counted in bars; check the rule first')
    const target = this.frameOf({ count, unit })
    if (target === frame) return this.compile(of, frame)
    const inner = this.compile(of, target)
    const out = this.numbers(frame)
    this.steps.push((m) =>
      kernel.gathered(m.numbers[inner], m.rowsCompleted(frame, target), 0, m.numbers[out]),
    )
    return out
  }
}

const countOf = (span: Node): number => (span as { count: number }).count
