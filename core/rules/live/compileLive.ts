import { INDICATORS } from '../../indicators'
import { stepperOf } from '../../indicators/live/steppers'
import { calendarOf, type ColumnName, columnOf } from '../../market/columns'
import { type Drawing, drawnColumn } from '../../market/drawings'
import { dayNumber, figureColumn, type FigureName } from '../../market/figures'
import { sideOf } from '../../market/paper'
import { type Timeframe, timeframeText } from '../../market/timeframe'
import { isFigure, plainName } from '../catalogue'
import { checkTree, unitOf } from '../check'
import { spreadFan } from '../fan'
import * as kernel from '../kernels'
import { print } from '../print'
import { resolveCall } from '../resolve'
import { sizesOf } from '../sizes'
import { type CallNode, type DurationUnit, type Node } from '../tree'
import { percentFactor } from '../units'
import { FAILS, HOLDS, UNKNOWN } from '../verdict'
import * as look from './memory'
import { type Cell, newTrack, type Track } from './track'

type Look = look.Look

/** Compiles trees to cells; the same part, wherever written, is one cell. Mirrors compile.ts word for word. */
export class LiveCompiler {
  readonly tracks: Track[] = []
  private readonly known = new Map<string, number>()

  constructor(private readonly every: Timeframe) {
    this.trackOf(every, undefined)
  }

  private trackOf(every: Timeframe, beside: string | undefined): Track {
    const text = timeframeText(every)
    const there = this.tracks.find((t) => timeframeText(t.every) === text && t.beside === beside)
    if (there) return there
    const track = newTrack(every, beside)
    this.tracks.push(track)
    return track
  }

  /** The cell of a tree on a track. */
  compile(node: Node, track: Track): number {
    const key = `${this.tracks.indexOf(track)}|${print(node)}`
    let cell = this.known.get(key)
    if (cell === undefined) this.known.set(key, (cell = this.make(node, track)))
    return cell
  }

  private cell(track: Track, run: Cell): number {
    return track.cells.push(run) - 1
  }

  /** A cell of other cells of the same track, once they are computed. */
  private of(track: Track, ins: readonly number[], run: (values: number[], keep: boolean) => number): number {
    const values = new Array<number>(ins.length)
    return this.cell(track, (_, keep) => {
      for (let k = 0; k < ins.length; k++) values[k] = track.now[ins[k]]
      return run(values, keep)
    })
  }

  /** Values that are compared, with the size of what they were made of; undefined where all are plain. */
  private compared(
    nodes: Node[],
    track: Track,
    run: (values: number[], size: number | undefined, keep: boolean) => number,
  ): number {
    const ins = nodes.map((node) => this.compile(node, track))
    const sizes = sizesOf(nodes, this.every)
    if (!sizes) return this.of(track, ins, (values, keep) => run(values, undefined, keep))
    const of = sizes.of.map((part) => this.compile(part, track))
    if (sizes.close) of.push(this.column('close', track))
    const sides = new Array<number>(ins.length)
    return this.of(track, [...ins, ...of], (values, keep) => {
      let size = sizes.least
      for (let k = ins.length; k < values.length; k++)
        if (Math.abs(values[k]) > size) size = Math.abs(values[k])
      for (let k = 0; k < ins.length; k++) sides[k] = values[k]
      return run(sides, size, keep)
    })
  }

  private looking(track: Track, of: Node, made: Look): number {
    return this.of(track, [this.compile(of, track)], ([x], keep) => made(x, keep))
  }

  private make(node: Node, track: Track): number {
    const spread = spreadFan(node)
    if (spread) return this.compile(spread, track)
    const parts = (...nodes: Node[]) => nodes.map((part) => this.compile(part, track))
    switch (node.kind) {
      case 'number':
        return this.cell(track, () => node.value)
      case 'time':
        return this.cell(track, () => node.minutes)
      case 'name': {
        const plain = plainName(node.name)
        if (!plain) return this.indicator({ kind: 'call', name: node.name, args: [] }, track)
        const column = this.column(plain.column, track)
        return plain.unit === 'state' ? this.asAnswer(track, column) : column
      }
      case 'call':
        return this.call(node, track)
      case 'negate':
        return this.of(track, parts(node.of), ([a]) => -1 * a)
      case 'arith':
        return this.arith(node, track)
      case 'compare':
        return this.compared(
          [node.left, node.right],
          track,
          verdictOf(2, ([a, b], out, size) => kernel.compare(node.op, a, b, out, size)),
        )
      case 'cross': {
        const made = look.crossing()
        const sign = node.way === 'above' ? 1 : -1
        return this.compared([node.left, node.right], track, ([a, b], size, keep) =>
          made(sign * (size === undefined ? a - b : sideOf(a, b, size)), keep),
        )
      }
      case 'between':
        return this.compared(
          [node.of, node.low, node.high],
          track,
          verdictOf(3, ([a, b, c], out, size) => kernel.between(a, b, c, out, size)),
        )
      case 'logic':
        return this.of(track, parts(...node.parts), (answers) => together(answers, node.op === 'or'))
      case 'fan':
        return this.of(track, parts(...node.parts), (answers) =>
          answers.includes(UNKNOWN) ? NaN : answers.filter((a) => a === HOLDS).length,
        )
      case 'not':
        return this.of(track, parts(node.of), ([a]) =>
          a === UNKNOWN ? UNKNOWN : a === HOLDS ? FAILS : HOLDS,
        )
      default:
        throw new Error(`"${print(node)}" cannot be computed; check the rule first`)
    }
  }

  private column(name: ColumnName | FigureName, track: Track): number {
    const key = `${this.tracks.indexOf(track)}|column ${name}`
    let cell = this.known.get(key)
    if (cell !== undefined) return cell
    if (isFigure(name)) {
      const out = new Float64Array(1)
      cell = this.cell(track, (bar, _, { reports }) => {
        figureColumn(name, reports ?? [], { ...bar, session: calendarOf(bar).session }, out)
        return out[0]
      })
    } else cell = this.cell(track, (bar) => columnOf(bar, name)[0])
    this.known.set(key, cell)
    return cell
  }

  /** Numbers that stand for answers: above nought holds, nought fails. */
  private asAnswer(track: Track, numbers: number): number {
    return this.of(track, [numbers], ([x]) => (x > 0 ? HOLDS : x === 0 ? FAILS : UNKNOWN))
  }

  private arith(node: Extract<Node, { kind: 'arith' }>, track: Track): number {
    const ins = [this.compile(node.left, track), this.compile(node.right, track)]
    const factor = percentFactor(node.op, unitOf(node.left, this.every), unitOf(node.right, this.every))
    const { op } = node
    return this.of(track, ins, ([a, b]) => {
      const x = op === '+' ? a + b : op === '-' ? a - b : op === '*' ? a * b : b === 0 ? NaN : a / b
      return factor === 1 ? x : x * factor
    })
  }

  private call(node: CallNode, track: Track): number {
    const [first, second] = node.args
    const count = (second as { count?: number } | undefined)?.count ?? 0
    switch (node.name) {
      case 'earlier':
        return this.earlier(first, second, track)
      case 'on': {
        const { count: many, unit } = first as { count: number; unit: DurationUnit }
        if (unit === 'bar') throw new Error('A timeframe is not counted in bars; check the rule first')
        return this.across(this.trackOf({ count: many, unit }, track.beside), second, track)
      }
      case 'beside': {
        const { value } = first as { value: string }
        const symbol = value === 'index' ? value : value.toUpperCase()
        return this.across(this.trackOf(track.every, symbol), second, track)
      }
      case 'least':
      case 'greatest': {
        const sign = node.name === 'least' ? 1 : -1
        const ins = node.args.map((arg) => this.compile(arg, track))
        return this.of(track, ins, (xs) =>
          xs.reduce((a, b) => (sign * a < sign * b ? a : sign * a >= sign * b ? b : NaN)),
        )
      }
      case 'barssince':
        return this.looking(track, first, look.barsSince())
      case 'vwapsince':
        return this.vwapSince(first, track)
      case 'level':
      case 'line':
      case 'zone': {
        const { value: name } = first as { value: string }
        if (node.name === 'line')
          throw new RangeError(
            `The line "${name}" hangs on the bars of the chart and cannot be followed live.`,
          )
        return this.cell(track, (_, __, { drawings }) => {
          const drawing = drawings?.find((d) => d.name === name && d.kind === node.name)
          return drawing ? drawnValue(drawing, node.output) : NaN
        })
      }
      case 'abs':
        return this.of(track, [this.compile(first, track)], ([a]) => Math.abs(a))
      case 'recently':
        return this.looking(track, first, look.recently(count))
      case 'always':
        return this.looking(track, first, look.always(count))
      case 'climbs':
      case 'sinks': {
        const made = look.runs(count, node.name === 'climbs' ? 1 : -1)
        return this.compared([first], track, ([x], size, keep) => made(x, keep, size))
      }
      case 'begins':
        return this.looking(track, first, look.begins())
      case 'certainly':
        return this.of(track, [this.compile(first, track)], ([a]) => (a === HOLDS ? HOLDS : FAILS))
      case 'reaches': {
        return this.compared(
          [first, { kind: 'name', name: 'low' }, { kind: 'name', name: 'high' }],
          track,
          verdictOf(3, ([level, low, high], out, size) => kernel.between(level, low, high, out, size)),
        )
      }
      default:
        return this.indicator(node, track)
    }
  }

  private vwapSince(anchor: Node, track: Track): number {
    const ins = (['high', 'low', 'close', 'volume'] as const).map((name) => this.column(name, track))
    const day = anchor.kind === 'text' ? dayNumber(anchor.value) : undefined
    const from = day === undefined ? this.compile(anchor, track) : this.column('session', track)
    const price = look.vwapSince()
    let before = NaN
    return this.of(track, [...ins, from], ([high, low, close, volume, now], keep) => {
      const starts = day === undefined ? now === HOLDS && before !== HOLDS : now >= day && !(before >= day)
      if (keep) before = now
      return price(starts, [high, low, close, volume], keep)
    })
  }

  private indicator(node: CallNode, track: Track): number {
    const indicator = INDICATORS.get(node.name)
    if (!indicator) throw new Error(`"${node.name}" is not known; check the rule first`)
    const call = resolveCall(node, indicator)
    if ('code' in call) throw new Error(`"${print(node)}" cannot be computed; check the rule first`)
    const { input, outputs } = indicator
    const key = `${this.tracks.indexOf(track)}|${indicator.name}|${call.series.map(print).join()}|${call.params.join()}`
    let first = this.known.get(key)
    if (first === undefined) {
      const ins =
        typeof input === 'string'
          ? call.series.map((series) => this.compile(series, track))
          : input.map((name) => this.column(name, track))
      const step = stepperOf(indicator, call.params)
      const outs = new Float64Array(outputs.length)
      first = this.of(track, ins, (values, keep) => {
        step(values, outs, keep)
        return outs[0]
      })
      // Further outputs stand right behind the first, which has computed them all.
      for (let k = 1; k < outputs.length; k++) this.cell(track, () => outs[k])
      this.known.set(key, first)
    }
    const cell = first + call.output
    const { unit } = outputs[call.output]
    return unit === 'state' || unit === 'moment' ? this.asAnswer(track, cell) : cell
  }

  private earlier(of: Node, span: Node, track: Track): number {
    const { count, unit } = span as { count: number; unit: DurationUnit }
    const target = unit === 'bar' ? track : this.trackOf({ count: 1, unit }, track.beside)
    const inner = this.compile(of, target)
    if (target === track) {
      const ring = new Float64Array(count).fill(NaN)
      let at = 0
      return this.of(track, [inner], ([x], keep) => {
        const old = ring[at]
        if (keep) {
          ring[at] = x
          at = (at + 1) % count
        }
        return old
      })
    }
    const past = target.past.get(inner) ?? { depth: 0, values: [] }
    past.depth = Math.max(past.depth, count)
    target.past.set(inner, past)
    return this.cell(track, () => past.values[past.values.length - count] ?? NaN)
  }

  /** The value of another track at the last bar of it that was complete by then. */
  private across(target: Track, of: Node, track: Track): number {
    if (target === track) return this.compile(of, track)
    const inner = this.compile(of, target)
    const unknown = checkTree(of, this.every).type?.is === 'yes/no' ? UNKNOWN : NaN
    const same = timeframeText(target.every) === timeframeText(track.every)
    return this.cell(track, (bar) => {
      // One that stands beside may grow together with this one.
      const known = same && target.end <= bar.end[0] ? target.now : same ? target.done : target.now
      return known[inner] ?? unknown
    })
  }
}

/** A comparison of the columns, of one row. */
function verdictOf(
  count: number,
  run: (ins: Float64Array[], out: Uint8Array, size: kernel.Size | undefined) => void,
) {
  const ins = Array.from({ length: count }, () => new Float64Array(1))
  const out = new Uint8Array(1)
  const size: kernel.Size = { of: undefined, least: 0 }
  return (values: readonly number[], about: number | undefined): number => {
    for (let k = 0; k < count; k++) ins[k][0] = values[k]
    if (about !== undefined) size.least = about
    run(ins, out, about === undefined ? undefined : size)
    return out[0]
  }
}

/** Kleene's "or" (settled by what holds) or "and" (settled by what fails). */
function together(answers: readonly number[], or: boolean): number {
  const settles = or ? HOLDS : FAILS
  if (answers.includes(settles)) return settles
  return answers.includes(UNKNOWN) ? UNKNOWN : or ? FAILS : HOLDS
}

/** The value of a level, or of an edge of a zone, which is the same on every bar. */
function drawnValue(drawing: Drawing, output: string | undefined): number {
  const out = new Float64Array(1)
  drawnColumn(drawing, new Float64Array(1), output, out)
  return out[0]
}
