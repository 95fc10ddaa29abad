import { INDICATORS } from '../indicators'
import { type ColumnName } from '../market/columns'
import { dayNumber, type FigureName } from '../market/figures'
import { type Timeframe, timeframeText } from '../market/timeframe'
import { isFigure, plainName } from './catalogue'
import { checkTree, unitOf } from './check'
import { spreadFan } from './fan'
import * as kernel from './kernels'
import { print } from './print'
import { type Columns, type Frame, type Program, type Register, type Step } from './program'
import { resolveCall } from './resolve'
import { type Sizes, sizesOf } from './sizes'
import { type CallNode, type DurationUnit, type Node } from './tree'
import { percentFactor } from './units'
import { HOLDS } from './verdict'

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
  readonly frames: Frame[]
  readonly registers: Register[] = []
  readonly steps: Step[] = []
  readonly known = new Map<string, number>()

  constructor(private readonly every: Timeframe) {
    this.frames = [{ every }]
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

  private step(out: number, run: (columns: Columns) => void): void {
    this.steps.push({ frame: this.registers[out].frame, run })
  }

  private make(node: Node, frame: number): number {
    const spread = spreadFan(node)
    if (spread) return this.compile(spread, frame)
    switch (node.kind) {
      case 'number': {
        return this.registers.push({ frame, holds: 'numbers', constant: node.value }) - 1
      }
      case 'time':
        return this.registers.push({ frame, holds: 'numbers', constant: node.minutes }) - 1
      case 'name': {
        const plain = plainName(node.name)
        if (!plain) return this.indicator({ kind: 'call', name: node.name, args: [] }, frame)
        const column = this.column(plain.column, frame)
        return plain.unit === 'state' ? this.asVerdicts(column) : column
      }
      case 'call':
        return this.call(node, frame)
      case 'negate':
        return this.unary(node.of, frame, (a, out) => kernel.scaled(a, -1, out))
      case 'arith':
        return this.arith(node, frame)
      case 'compare':
        return this.compared([node.left, node.right], frame, ([a, b], out, size) =>
          kernel.compare(node.op, a, b, out, size),
        )
      case 'cross':
        return this.compared([node.left, node.right], frame, ([a, b], out, size) =>
          kernel.crosses(node.way, a, b, out, size),
        )
      case 'between':
        return this.compared([node.of, node.low, node.high], frame, ([a, b, c], out, size) =>
          kernel.between(a, b, c, out, size),
        )
      case 'logic': {
        const join = node.op === 'and' ? kernel.both : kernel.either
        const [first, ...rest] = node.parts.map((part) => this.compile(part, frame))
        return rest.reduce((left, right) => {
          const out = this.verdicts(frame)
          this.step(out, (m) => join(m.verdicts[left], m.verdicts[right], m.verdicts[out]))
          return out
        }, first)
      }
      case 'fan': {
        const ins = node.parts.map((part) => this.compile(part, frame))
        const out = this.numbers(frame)
        this.step(out, (m) =>
          kernel.counted(
            ins.map((r) => m.verdicts[r]),
            m.numbers[out],
          ),
        )
        return out
      }
      case 'not':
        return this.condition(node.of, frame, kernel.not)
      default:
        throw new Error(`"${print(node)}" cannot be computed; check the rule first`)
    }
  }

  /** A column of the bars or a figure of the company, once for each frame. */
  private column(name: ColumnName | FigureName, frame: number): number {
    const key = `${frame}|column ${name}`
    let register = this.known.get(key)
    if (register === undefined) {
      const from: Partial<Register> = isFigure(name) ? { figure: name } : { series: name }
      register = this.registers.push({ frame, holds: 'numbers', ...from }) - 1
      this.known.set(key, register)
    }
    return register
  }

  /** The verdicts that an indicator gives as numbers. */
  private asVerdicts(numbers: number): number {
    const key = `verdicts of ${numbers}`
    let out = this.known.get(key)
    if (out === undefined) {
      const made = (out = this.verdicts(this.registers[numbers].frame))
      this.step(made, (m) => kernel.verdicts(m.numbers[numbers], m.verdicts[made]))
      this.known.set(key, made)
    }
    return out
  }

  private isCondition(node: Node): boolean {
    return checkTree(node, this.every).type?.is === 'yes/no'
  }

  private unary(of: Node, frame: number, run: (a: Float64Array, out: Float64Array) => void): number {
    const a = this.compile(of, frame)
    const out = this.numbers(frame)
    this.step(out, (m) => run(m.numbers[a], m.numbers[out]))
    return out
  }

  /** A verdict on values that are compared, with the size of what they were made of. */
  private compared(
    parts: Node[],
    frame: number,
    run: (ins: Float64Array[], out: Uint8Array, size: kernel.Size | undefined) => void,
  ): number {
    const ins = parts.map((part) => this.compile(part, frame))
    const sizes = sizesOf(parts, this.every)
    const of = sizes && this.sizeRegister(sizes, ins, frame)
    const out = this.verdicts(frame)
    this.step(out, (m) =>
      run(
        ins.map((r) => m.numbers[r]),
        m.verdicts[out],
        sizes && { of: of === undefined ? undefined : m.numbers[of], least: sizes.least },
      ),
    )
    return out
  }

  /** The column that tells the size of what was compared; none where the sides themselves do. */
  private sizeRegister({ of, close }: Sizes, sides: readonly number[], frame: number): number | undefined {
    const registers = new Set(of.map((part) => this.compile(part, frame)))
    if (close) registers.add(this.column('close', frame))
    for (const side of sides) registers.delete(side)
    const ins = [...registers].sort((a, b) => a - b)
    if (ins.length < 2) return ins[0]
    const key = `sizes of ${ins.join()}`
    let out = this.known.get(key)
    if (out === undefined) {
      const made = (out = this.numbers(frame))
      this.step(made, (m) =>
        kernel.sizes(
          ins.map((r) => m.numbers[r]),
          m.numbers[made],
        ),
      )
      this.known.set(key, made)
    }
    return out
  }

  private condition(of: Node, frame: number, run: (a: Uint8Array, out: Uint8Array) => void): number {
    const a = this.compile(of, frame)
    const out = this.verdicts(frame)
    this.step(out, (m) => run(m.verdicts[a], m.verdicts[out]))
    return out
  }

  private arith(node: Extract<Node, { kind: 'arith' }>, frame: number): number {
    const left = this.compile(node.left, frame)
    const right = this.compile(node.right, frame)
    const out = this.numbers(frame)
    const { op } = node
    this.step(out, (m) => kernel.arith(op, m.numbers[left], m.numbers[right], m.numbers[out]))
    const factor = percentFactor(op, unitOf(node.left, this.every), unitOf(node.right, this.every))
    if (factor === 1) return out
    const brought = this.numbers(frame)
    this.step(brought, (m) => kernel.scaled(m.numbers[out], factor, m.numbers[brought]))
    return brought
  }

  private call(node: CallNode, frame: number): number {
    const [first, second] = node.args
    switch (node.name) {
      case 'earlier':
        return this.earlier(first, second, frame)
      case 'on':
        return this.on(first, second, frame)
      case 'beside':
        return this.beside((first as { value: string }).value, second, frame)
      case 'least':
      case 'greatest': {
        const pick = node.name === 'least' ? kernel.least : kernel.greatest
        const [start, ...rest] = node.args.map((arg) => this.compile(arg, frame))
        return rest.reduce((left, right) => {
          const out = this.numbers(frame)
          this.step(out, (m) => pick(m.numbers[left], m.numbers[right], m.numbers[out]))
          return out
        }, start)
      }
      case 'barssince': {
        const a = this.compile(first, frame)
        const out = this.numbers(frame)
        this.step(out, (m) => kernel.barsSince(m.verdicts[a], m.numbers[out]))
        return out
      }
      case 'vwapsince':
        return this.vwapSince(first, frame)
      case 'level':
      case 'line':
      case 'zone': {
        const drawn = {
          kind: node.name,
          name: (first as { value: string }).value,
          output: node.output,
        } as const
        return this.registers.push({ frame, holds: 'numbers', drawn }) - 1
      }
      case 'abs':
        return this.unary(first, frame, kernel.absolute)
      case 'recently':
        return this.condition(first, frame, (a, out) => kernel.recently(a, countOf(second), out))
      case 'always':
        return this.condition(first, frame, (a, out) => kernel.always(a, countOf(second), out))
      case 'climbs':
        return this.compared([first], frame, ([a], out, size) =>
          kernel.runs(a, countOf(second), 1, out, size),
        )
      case 'sinks':
        return this.compared([first], frame, ([a], out, size) =>
          kernel.runs(a, countOf(second), -1, out, size),
        )
      case 'begins':
        return this.condition(first, frame, kernel.begins)
      case 'certainly':
        return this.condition(first, frame, kernel.certain)
      case 'reaches':
        return this.compared(
          [first, { kind: 'name', name: 'low' }, { kind: 'name', name: 'high' }],
          frame,
          ([level, low, high], out, size) => kernel.between(level, low, high, out, size),
        )
      default:
        return this.indicator(node, frame)
    }
  }

  private vwapSince(anchor: Node, frame: number): number {
    const columns = (['high', 'low', 'close', 'volume'] as const).map((name) => this.column(name, frame))
    const out = this.numbers(frame)
    const day = anchor.kind === 'text' ? dayNumber(anchor.value) : undefined
    const from = day === undefined ? this.compile(anchor, frame) : this.column('session', frame)
    this.step(out, (m) => {
      const [high, low, close, volume] = columns.map((r) => m.numbers[r])
      const starts =
        day === undefined
          ? (i: number) => m.verdicts[from][i] === HOLDS && (i === 0 || m.verdicts[from][i - 1] !== HOLDS)
          : (i: number) => m.numbers[from][i] >= day && !(m.numbers[from][i - 1] >= day)
      kernel.vwapSince(starts, high, low, close, volume, m.numbers[out])
    })
    return out
  }

  private indicator(node: CallNode, frame: number): number {
    const indicator = INDICATORS.get(node.name)
    if (!indicator) throw new Error(`"${node.name}" is not known; check the rule first`)
    const call = resolveCall(node, indicator)
    if ('code' in call) throw new Error(`"${print(node)}" cannot be computed; check the rule first`)
    const { input } = indicator
    const key = `${frame}|${indicator.name}|${call.series.map(print).join()}|${call.params.join()}`
    let first = this.known.get(key)
    if (first === undefined) {
      const ins =
        typeof input === 'string'
          ? call.series.map((series) => this.compile(series, frame))
          : input.map((name) => this.column(name, frame))
      const outs = indicator.outputs.map(() => this.numbers(frame))
      const { params } = call
      this.step(outs[0], (m) =>
        indicator.column(
          ins.map((r) => m.numbers[r]),
          params,
          outs.map((r) => m.numbers[r]),
        ),
      )
      first = outs[0]
      this.known.set(key, first)
    }
    const { unit } = indicator.outputs[call.output]
    const register = first + call.output
    return unit === 'state' || unit === 'moment' ? this.asVerdicts(register) : register
  }

  private frameOf(every: Timeframe, beside: string | undefined): number {
    const text = timeframeText(every)
    const at = this.frames.findIndex((f) => timeframeText(f.every) === text && f.beside === beside)
    return at >= 0 ? at : this.frames.push({ every, beside }) - 1
  }

  private earlier(of: Node, span: Node, frame: number): number {
    const count = countOf(span)
    const unit = (span as { unit: DurationUnit }).unit
    const { beside } = this.frames[frame]
    const target = unit === 'bar' ? frame : this.frameOf({ count: 1, unit }, beside)
    if (target === frame) return this.unary(of, frame, (a, out) => kernel.shifted(a, count, out))
    const inner = this.compile(of, target)
    const out = this.numbers(frame)
    this.step(out, (m) =>
      kernel.gathered(m.numbers[inner], m.rowsHolding(frame, target), count, m.numbers[out]),
    )
    return out
  }

  private on(span: Node, of: Node, frame: number): number {
    const { count, unit } = span as { count: number; unit: DurationUnit }
    if (unit === 'bar') throw new Error('A timeframe is not counted in bars; check the rule first')
    return this.across(this.frameOf({ count, unit }, this.frames[frame].beside), of, frame)
  }

  private beside(symbol: string, of: Node, frame: number): number {
    const name = symbol === 'index' ? symbol : symbol.toUpperCase()
    return this.across(this.frameOf(this.frames[frame].every, name), of, frame)
  }

  /** A number or a condition computed on another frame, at the last bar of it that was complete by then. */
  private across(target: number, of: Node, frame: number): number {
    if (target === frame) return this.compile(of, frame)
    const inner = this.compile(of, target)
    if (this.isCondition(of)) {
      const out = this.verdicts(frame)
      this.step(out, (m) =>
        kernel.gatheredVerdicts(m.verdicts[inner], m.rowsCompleted(frame, target), m.verdicts[out]),
      )
      return out
    }
    const out = this.numbers(frame)
    this.step(out, (m) =>
      kernel.gathered(m.numbers[inner], m.rowsCompleted(frame, target), 0, m.numbers[out]),
    )
    return out
  }
}

const countOf = (span: Node): number => (span as { count: number }).count
