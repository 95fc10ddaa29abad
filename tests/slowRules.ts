import { INDICATORS } from '@/core/indicators'
import { type Bars, type SeriesName } from '@/core/market/bars'
import { resample } from '@/core/market/resample'
import { type Node } from '@/core/rules'
import { unitOf } from '@/core/rules/check'

/** Yes, no, or unknown. */
export type Answer = boolean | undefined

/** Any of several answers where `settles` is true, all of them where it is false. */
function together(answers: Answer[], settles: boolean): Answer {
  return answers.includes(settles) ? settles : answers.includes(undefined) ? undefined : !settles
}

/** A difference of two numbers as it is on paper: what rounding leaves of whole cents is nothing. */
const onPaper = (apart: number, a: number, b: number): number =>
  Math.abs(apart) < 1e-10 + 1e-11 * (Math.abs(a) + Math.abs(b)) ? 0 : apart

/** Values that are no prices meet where they are equal, or have gone through one another since the bar before. */
function equals(before: number, now: number): Answer {
  if (Number.isNaN(now)) return undefined
  if (now === 0) return true
  return Number.isNaN(before) ? undefined : before * now < 0
}

function lastCompleted(bars: Bars, by: number): number {
  let done = -1
  while (done + 1 < bars.end.length && bars.end[done + 1] <= by) done++
  return done
}

/** The rows of the same local day, up to a row and with it. */
function rowsOfSession({ time, zone }: Bars, row: number): number[] {
  const day = (at: number) => new Date(time[at]).toLocaleDateString('en-CA', { timeZone: zone })
  return Array.from(time.keys()).filter((at) => at <= row && day(at) === day(row))
}

const INDICATOR_LENGTH = (node: Node): number => (node.kind === 'number' ? node.value : NaN)

/**
 * Rule text computed the plain way, bar by bar and part by part, straight from the meaning of each word in
 * docs/rule-text.md. Slow and simple: what the compiled columns must agree with.
 */
export class SlowRules {
  constructor(
    private readonly bars: Bars,
    /** Bars of the security that goes by the name TWIN. */
    private readonly twin?: Bars,
  ) {}

  value(node: Node, row: number): number {
    if (row < 0) return NaN
    switch (node.kind) {
      case 'number':
        return node.value
      case 'name':
        return this.bars[node.name as SeriesName][row]
      case 'negate':
        return -this.value(node.of, row)
      case 'arith': {
        const [a, b] = [this.value(node.left, row), this.value(node.right, row)]
        if (node.op === '/') return b === 0 ? NaN : a / b
        return node.op === '+' ? a + b : node.op === '-' ? a - b : a * b
      }
      case 'call':
        return this.call(node, row)
      default:
        throw new Error(`${node.kind} is no value`)
    }
  }

  private call(node: Extract<Node, { kind: 'call' }>, row: number): number {
    const [first, second] = node.args
    if (node.name === 'abs') return Math.abs(this.value(first, row))
    if (node.name === 'earlier') return this.value(first, row - (second as { count: number }).count)
    if (node.name === 'on') {
      const weeks = this.weeks(row)
      return weeks.rules.value(second, weeks.row)
    }
    if (node.name === 'beside') {
      if (!this.twin) return NaN
      return new SlowRules(this.twin, this.twin).value(second, lastCompleted(this.twin, this.bars.end[row]))
    }
    if (node.name === 'least' || node.name === 'greatest') {
      const values = node.args.map((arg) => this.value(arg, row))
      return node.name === 'least' ? Math.min(...values) : Math.max(...values)
    }
    if (node.name === 'barssince') {
      for (let back = 0; back <= row; back++) {
        const answer = this.answer(first, row - back)
        if (answer === undefined) return NaN
        if (answer) return back
      }
      return NaN
    }
    const source = Float64Array.from(this.bars.close, (_, i) => this.value(first, i))
    const indicator = INDICATORS.get(node.name)!
    const params = indicator.parameters.map((p, i) =>
      node.args[i + 1] ? INDICATOR_LENGTH(node.args[i + 1]) : p.preset!,
    )
    const outs = indicator.outputs.map(() => new Float64Array(source.length))
    indicator.column([source], params, outs)
    return outs[
      Math.max(
        0,
        indicator.outputs.findIndex((o) => o.name === node.output),
      )
    ][row]
  }

  /** By all that may be: whether it may have held since it was freed, and may not have. */
  private once([of, until]: readonly Node[], row: number): Answer {
    let may = new Set(['free'])
    for (let at = 0; at <= row; at++) {
      const [now, frees] = [this.answer(of, at), this.answer(until, at)]
      if (frees) may = new Set(['free'])
      if (frees === undefined) may.add('free')
      if (at === row) {
        if (now === false || !may.has('free')) return false
        return now && may.size === 1 ? true : undefined
      }
      if (now) may = new Set(['used'])
      if (now === undefined && may.has('free')) may.add('used')
    }
    return undefined
  }

  private weeks(row: number): { rules: SlowRules; row: number } {
    const week = { count: 1, unit: 'week' } as const
    const { bars } = resample(this.bars, week)
    return {
      rules: new SlowRules(bars, this.twin && resample(this.twin, week).bars),
      row: lastCompleted(bars, this.bars.end[row]),
    }
  }

  /** One value against several: against each by itself, then all or any of those. */
  private againstEach(node: Extract<Node, { kind: 'relate' }>, row: number): Answer {
    const fan = node.right as Extract<Node, { kind: 'fan' }>
    return together(
      fan.parts.map((right) => this.answer({ ...node, right }, row)),
      fan.each === 'any',
    )
  }

  answer(node: Node, row: number): Answer {
    if (row < 0) return undefined
    if (node.kind === 'relate' && node.right.kind === 'fan') return this.againstEach(node, row)
    switch (node.kind) {
      case 'fan':
        return together(
          node.parts.map((part) => this.answer(part, row)),
          node.each === 'any',
        )
      case 'name': {
        const [open, high] = [this.bars.open[row], this.bars.high[row - 1] ?? NaN]
        const known = ![open, high, this.bars.low[row - 1] ?? NaN].some(Number.isNaN)
        return known ? open > high : undefined
      }
      case 'relate':
        return this.relate(node, row)
      case 'between': {
        const [x, low, high] = [node.of, node.low, node.high].map((part) => this.value(part, row))
        return [x, low, high].some(Number.isNaN)
          ? undefined
          : onPaper(x - low, x, low) >= 0 && onPaper(x - high, x, high) <= 0
      }
      case 'logic': {
        return together(
          node.parts.map((part) => this.answer(part, row)),
          node.op === 'or',
        )
      }
      case 'not': {
        const answer = this.answer(node.of, row)
        return answer === undefined ? undefined : !answer
      }
      case 'call':
        return this.condition(node, row)
      default:
        throw new Error(`${node.kind} is no condition`)
    }
  }

  /** How the left side stands to the right one, in one line for each word. */
  private relate({ how, left, right }: Extract<Node, { kind: 'relate' }>, row: number): Answer {
    const apart = (at: number) => {
      const [a, b] = [this.value(left, at), this.value(right, at)]
      return onPaper(a - b, a, b)
    }
    const [before, now] = [apart(row - 1), apart(row)]
    if (how === 'meets') {
      const prices = [left, right].some((side) => unitOf(side, this.bars.every) === 'price')
      return prices ? this.meets(before, now, row) : equals(before, now)
    }
    const moment = how.includes('cross') || how.includes('sides')
    if (Number.isNaN(now) || (moment && Number.isNaN(before))) return undefined
    switch (how) {
      case '>':
        return now > 0
      case '<':
        return now < 0
      case '>=':
        return now >= 0
      case '<=':
        return now <= 0
      case '=':
        return now === 0
      case 'crosses above':
        return before <= 0 && now > 0
      case 'crosses below':
        return before >= 0 && now < 0
      case 'changes sides of':
        return before !== 0 ? now !== 0 && before > 0 !== now > 0 : now !== 0
      default:
        throw new Error(`${how} is not read here`)
    }
  }

  /** Within a tick of each other, a cent at the prices of these tests, or through one another since the bar before. */
  private meets(before: number, now: number, row: number): Answer {
    const tick = this.bars.close[row] < 1 ? 0.0001 : 0.01
    if (Number.isNaN(now) || Number.isNaN(this.bars.close[row])) return undefined
    if (Math.abs(now) < tick * 1.000001) return true
    return Number.isNaN(before) ? undefined : before * now < 0
  }

  private condition(node: Extract<Node, { kind: 'call' }>, row: number): Answer {
    const [of, span] = node.args
    const n = span?.kind === 'duration' ? span.count : 1
    const lastRows = Array.from({ length: n }, (_, k) => row - k)
    if (node.name === 'recently' || node.name === 'always') {
      return together(
        lastRows.map((at) => this.answer(of, at)),
        node.name === 'recently',
      )
    }
    if (node.name === 'on') {
      const weeks = this.weeks(row)
      return weeks.rules.answer(span, weeks.row)
    }
    if (node.name === 'new high') {
      const length = INDICATOR_LENGTH(of)
      const closes = Array.from({ length }, (_, k) => this.bars.close[row - k] ?? NaN)
      return closes.some(Number.isNaN) ? undefined : closes.every((x) => x <= closes[0])
    }
    if (node.name === 'begins') {
      const [before, now] = [this.answer(of, row - 1), this.answer(of, row)]
      if (now === false || before === true) return false
      return now === undefined || before === undefined ? undefined : true
    }
    if (node.name === 'first') {
      const sessions = rowsOfSession(this.bars, row).map((at) => this.answer(of, at))
      const now = sessions.pop()
      if (now === false || sessions.includes(true)) return false
      return now === undefined || sessions.includes(undefined) ? undefined : true
    }
    if (node.name === 'once') return this.once(node.args, row)
    if (node.name === 'certainly') return this.answer(of, row) === true
    if (node.name === 'reaches') {
      const level = this.value(of, row)
      const [low, high] = [this.bars.low[row], this.bars.high[row]]
      return [level, low, high].some(Number.isNaN)
        ? undefined
        : onPaper(level - low, level, low) >= 0 && onPaper(level - high, level, high) <= 0
    }
    if (node.name.startsWith('passes')) {
      const { open, high, low, close } = this.bars
      const level = this.value(of, row)
      const [first, last] = [open[row], close[row]]
      if ([level, first, last].some(Number.isNaN)) return undefined
      const extremes = high[row] - first <= first - low[row] ? [high[row], low[row]] : [low[row], high[row]]
      const path = [close[row - 1] ?? NaN, first, ...extremes, last].map((price) => {
        const far = price / level - 1
        return Number.isNaN(price) ? NaN : Math.abs(far) <= 1e-9 ? 0 : Math.sign(price - level)
      })
      const [ups, downs] = [1, -1].map((way) =>
        path.some((now, i) => i > 0 && way * path[i - 1] < 0 && way * now >= 0),
      )
      return node.name === 'passesup' ? ups : node.name === 'passesdown' ? downs : ups || downs
    }
    const sign = node.name === 'climbs' ? 1 : -1
    const steps = lastRows.map((at) => {
      const [now, before] = [this.value(of, at), this.value(of, at - 1)]
      return sign * onPaper(now - before, now, before)
    })
    if (steps.some((step) => step <= 0)) return false
    return steps.some(Number.isNaN) ? undefined : true
  }
}
