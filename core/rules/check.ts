import { INDICATORS } from '../indicators'
import { type Unit } from '../indicators/types'
import { dayNumber } from '../market/figures'
import { roughMinutes, type Timeframe, timeframeText } from '../market/timeframe'
import { ENTRIES, FUNCTIONS, plainName, type RuleFunction, type Takes } from './catalogue'
import { spreadFan } from './fan'
import { type Issue } from './issues'
import { nearest } from './near'
import { parse } from './parse'
import { print } from './print'
import { resolveCall } from './resolve'
import { type CallNode, type Node, type Span } from './tree'
import { commonUnit, type NumberType, productUnit, quotientUnit } from './units'

/** What an expression gives: a number with a unit, or yes/no that lasts (state) or happens (moment). */
export type Type = NumberType | { is: 'yes/no'; nature: 'state' | 'moment' }

/** Bars that a rule may look back; ten years of days and some. */
export const LOOK_BACK_LIMIT = 5000

export type Checked =
  { tree: Node; type: Type; needs: number; issues: [] } | { tree?: Node; type?: undefined; issues: Issue[] }

/** What may be named in quotes, where that is known: securities, and drawings of the security in view. */
export interface Names {
  symbols?: ReadonlySet<string>
  drawn?: readonly string[]
}

const DAILY: Timeframe = { count: 1, unit: 'day' }

/** Parses and checks a rule, which must be yes/no. `every` is the timeframe it will be run on. */
export const checkRule = (text: string, every: Timeframe = DAILY, names: Names = {}): Checked =>
  checkText(text, every, names, 'yes/no')

/** Parses and checks a measure, which must be a number. */
export const checkMeasure = (text: string, every: Timeframe = DAILY, names: Names = {}): Checked =>
  checkText(text, every, names, 'number')

function checkText(text: string, every: Timeframe, names: Names, wanted: Type['is']): Checked {
  const parsed = parse(text)
  if (!parsed.tree) return parsed
  return checkTree(parsed.tree, every, wanted, names)
}

/** Checks names, arguments, types, units and the length of the look back of a tree. */
export function checkTree(tree: Node, every: Timeframe, wanted?: Type['is'], names: Names = {}): Checked {
  const checker = new Checker(every, names)
  const type = checker.visit(tree)
  const { issues } = checker
  if (type && wanted && type.is !== wanted) {
    const found = print(tree)
    issues.push({ code: wanted === 'yes/no' ? 'wants_yes_no' : 'wants_number', found, at: placeOf(tree) })
  }
  if (issues.length > 0 || !type) return { tree, issues }
  const needs = barsNeeded(tree)
  if (needs > LOOK_BACK_LIMIT) {
    return {
      tree,
      issues: [{ code: 'too_far_back', bars: needs, limit: LOOK_BACK_LIMIT, at: placeOf(tree) }],
    }
  }
  return { tree, type, needs, issues: [] }
}

const placeOf = (node: Node): Span => node.at ?? { from: 0, to: 0 }

const number = (unit: Unit, literal = false): NumberType => ({ is: 'number', unit, literal })

class Checker {
  readonly issues: Issue[] = []
  constructor(
    private readonly every: Timeframe,
    private readonly names: Names,
  ) {}

  /** Type of a node, or undefined where it has an issue, which is then in the list. */
  visit(node: Node): Type | undefined {
    const at = placeOf(node)
    const spread = spreadFan(node)
    if (spread) return this.visit(spread)
    switch (node.kind) {
      case 'number':
        return number(node.unit, true)
      case 'time':
        return number('clock', true)
      case 'duration':
      case 'text':
        return this.refuse({ code: 'misplaced_literal', what: node.kind, at })
      case 'name':
        return this.name(node.name, at)
      case 'call':
        return this.call(node)
      case 'negate':
        return this.calculable(this.asNumber(node.of), node.of)
      case 'arith':
        return this.arith(node)
      case 'compare':
      case 'cross': {
        const left = this.asNumber(node.left)
        const right = this.asNumber(node.right)
        if (!left || !right || !this.comparable(left, right, node.right)) return undefined
        return { is: 'yes/no', nature: node.kind === 'cross' ? 'moment' : 'state' }
      }
      case 'between': {
        const types = [node.of, node.low, node.high].map((part) => this.asNumber(part))
        const [of, low, high] = types
        if (!of || !low || !high) return undefined
        if (!this.comparable(of, low, node.low) || !this.comparable(of, high, node.high)) return undefined
        return { is: 'yes/no', nature: 'state' }
      }
      case 'logic': {
        const natures = node.parts.map((part) => this.asCondition(part))
        if (natures.includes(undefined)) return undefined
        // One moment among conditions makes the whole a moment; among alternatives it takes all of them.
        const moments = natures.filter((nature) => nature === 'moment').length
        const moment = node.op === 'and' ? moments > 0 : moments === natures.length
        return { is: 'yes/no', nature: moment ? 'moment' : 'state' }
      }
      case 'not':
        return this.asCondition(node.of) && { is: 'yes/no', nature: 'state' }
      case 'fan': {
        const natures = node.parts.map((part) => this.asCondition(part))
        return natures.includes(undefined) ? undefined : number('number')
      }
    }
  }

  private refuse(issue: Issue): undefined {
    this.issues.push(issue)
    return undefined
  }

  private asNumber(node: Node): NumberType | undefined {
    const type = this.visit(node)
    if (!type || type.is === 'number') return type
    return this.refuse({ code: 'wants_number', found: print(node), at: placeOf(node) })
  }

  private asCondition(node: Node): 'state' | 'moment' | undefined {
    const type = this.visit(node)
    if (!type) return undefined
    if (type.is === 'yes/no') return type.nature
    return this.refuse({ code: 'wants_yes_no', found: print(node), at: placeOf(node) })
  }

  private name(name: string, at: Span): Type | undefined {
    const plain = plainName(name)
    if (plain) return plain.unit === 'state' ? { is: 'yes/no', nature: 'state' } : number(plain.unit)
    // With nothing to be given, such as obv, an indicator may stand without brackets.
    if (INDICATORS.get(name)?.parameters.every((p) => p.preset !== undefined))
      return this.call({ kind: 'call', name, args: [], at })
    const entry = ENTRIES.find((e) => e.name === name)
    if (entry) return this.refuse({ code: 'needs_arguments', name, usage: entry.usage, at })
    return this.refuse({
      code: 'unknown_name',
      name,
      near: nearest(
        name,
        ENTRIES.map((e) => e.name),
      ),
      at,
    })
  }

  private call(node: CallNode): Type | undefined {
    const at = placeOf(node)
    const fn = FUNCTIONS.get(node.name)
    if (fn) return this.functionCall(node, fn)
    const indicator = INDICATORS.get(node.name)
    if (!indicator) {
      const near = nearest(
        node.name,
        ENTRIES.map((e) => e.name),
      )
      return this.refuse({ code: 'unknown_name', name: node.name, near, at })
    }
    const resolved = resolveCall(node, indicator)
    if ('code' in resolved) return this.refuse(resolved)
    const inputs = resolved.series.map((series) => this.calculable(this.asNumber(series), series))
    if (inputs.includes(undefined)) return undefined
    const { unit } = indicator.outputs[resolved.output]
    if (unit === 'state' || unit === 'moment') return { is: 'yes/no', nature: unit }
    return number(unit === 'input' ? (inputs[0]?.unit ?? 'number') : unit)
  }

  private functionCall(node: CallNode, fn: RuleFunction): Type | undefined {
    const at = placeOf(node)
    if (fn.many ? node.args.length < fn.takes.length : node.args.length !== fn.takes.length) {
      return this.refuse({
        code: 'argument_count',
        name: fn.name,
        usage: fn.usage,
        given: node.args.length,
        at,
      })
    }
    const outputs = fn.outputs ?? []
    if (node.output !== undefined && !outputs.includes(node.output))
      return this.refuse({
        code: 'unknown_output',
        name: fn.name,
        output: node.output,
        outputs: [...outputs],
        at,
      })
    const inputs: Type[] = []
    const fine = node.args.map((arg, i) => {
      const type = this.argument(arg, fn.takes[i] ?? fn.takes.at(-1)!, fn)
      if (type && type !== 'fine') inputs.push(type)
      return type !== undefined
    })
    if (fine.includes(false)) return undefined
    if (fn.gives === 'price' || fn.gives === 'number') return number(fn.gives)
    if (fn.gives !== 'input') return { is: 'yes/no', nature: fn.gives }
    const [first, ...others] = inputs
    if (first.is !== 'number') return first
    for (const [i, other] of others.entries())
      if (other.is !== 'number' || !this.comparable(first, other, node.args[i + 1])) return undefined
    const unit = others.reduce((now, other) => commonUnit(number(now), other as NumberType)!, first.unit)
    return number(unit)
  }

  /** Type of an argument, 'fine' for one that is no value, undefined where it has an issue. */
  private argument(arg: Node, wanted: Takes, fn: RuleFunction): Type | 'fine' | undefined {
    switch (wanted) {
      case 'number':
        return this.asNumber(arg)
      case 'either':
        return this.visit(arg)
      case 'anchor':
        if (arg.kind === 'text') return this.date(arg) ? 'fine' : undefined
        return this.argument(arg, 'condition', fn)
      case 'condition': {
        const nature = this.asCondition(arg)
        return nature && { is: 'yes/no', nature }
      }
      case 'symbol':
      case 'drawn':
        return this.quoted(arg, wanted, fn) ? 'fine' : undefined
      default:
        return this.duration(arg, wanted, fn) ? 'fine' : undefined
    }
  }

  private quoted(arg: Node, what: 'symbol' | 'drawn', fn: RuleFunction): boolean {
    const at = placeOf(arg)
    const { symbols, drawn } = this.names
    if (arg.kind !== 'text') this.refuse({ code: 'wants_text', name: fn.name, usage: fn.usage, what, at })
    else if (what === 'symbol' && symbols && arg.value !== 'index' && !symbols.has(arg.value.toUpperCase()))
      this.refuse({
        code: 'unknown_symbol',
        symbol: arg.value,
        near: nearest(
          arg.value,
          Array.from(symbols, (name) => name.toLowerCase()),
        ).map((name) => name.toUpperCase()),
        at,
      })
    else if (what === 'drawn' && drawn && !drawn.includes(arg.value))
      this.refuse({ code: 'unknown_drawing', drawing: arg.value, names: [...drawn], at })
    else return true
    return false
  }

  private date(arg: Extract<Node, { kind: 'text' }>): boolean {
    if (/^\d{4}-\d{2}-\d{2}$/.test(arg.value) && !Number.isNaN(dayNumber(arg.value))) return true
    this.refuse({ code: 'bad_date', text: arg.value, at: placeOf(arg) })
    return false
  }

  /** A value that can be calculated with; a time of day can only be compared. */
  private calculable(type: NumberType | undefined, node: Node): NumberType | undefined {
    if (type?.unit !== 'clock') return type
    return this.refuse({ code: 'no_arithmetic', unit: type.unit, at: placeOf(node) })
  }

  private duration(arg: Node, wanted: 'duration' | 'bars' | 'timeframe', fn: RuleFunction): boolean {
    const at = placeOf(arg)
    if (arg.kind !== 'duration' || (wanted === 'bars' && arg.unit !== 'bar')) {
      this.refuse({ code: 'wants_duration', name: fn.name, usage: fn.usage, barsOnly: wanted === 'bars', at })
      return false
    }
    if (wanted === 'timeframe' && arg.unit === 'bar') {
      this.refuse({ code: 'wants_timeframe', usage: fn.usage, at })
      return false
    }
    if (arg.unit !== 'bar') {
      const asked: Timeframe = { count: wanted === 'timeframe' ? arg.count : 1, unit: arg.unit }
      if (roughMinutes(asked) < roughMinutes(this.every)) {
        this.refuse({
          code: 'finer_than_bars',
          asked: timeframeText(asked),
          bars: timeframeText(this.every),
          at,
        })
        return false
      }
    }
    return true
  }

  private arith(node: Extract<Node, { kind: 'arith' }>): Type | undefined {
    const left = this.calculable(this.asNumber(node.left), node.left)
    const right = this.calculable(this.asNumber(node.right), node.right)
    if (!left || !right) return undefined
    const literal = left.literal && right.literal
    if (node.op === '*') return number(productUnit(left.unit, right.unit), literal)
    if (node.op === '/') return number(quotientUnit(left.unit, right.unit), literal)
    const unit = commonUnit(left, right)
    if (unit) return number(unit, literal)
    const percentOf = right.unit === 'percent' ? print(node.left) : undefined
    return this.refuse({
      code: 'unit_mismatch',
      doing: 'add',
      left: left.unit,
      right: right.unit,
      percentOf,
      at: placeOf(node.right),
    })
  }

  private comparable(left: NumberType, right: NumberType, place: Node): boolean {
    if (commonUnit(left, right)) return true
    this.refuse({
      code: 'unit_mismatch',
      doing: 'compare',
      left: left.unit,
      right: right.unit,
      at: placeOf(place),
    })
    return false
  }
}

/** Bars before a tree can have a known value on its own timeframe; what other timeframes need is not counted. */
export function barsNeeded(node: Node): number {
  switch (node.kind) {
    case 'name': {
      const indicator = INDICATORS.get(node.name)
      return indicator ? barsNeeded({ kind: 'call', name: node.name, args: [] }) : 1
    }
    case 'call': {
      const indicator = INDICATORS.get(node.name)
      if (indicator) {
        const call = resolveCall(node, indicator)
        if ('code' in call) return 1
        return indicator.warmUp(call.params) + Math.max(1, ...call.series.map(barsNeeded)) - 1
      }
      if (node.name === 'on') return 1
      if (node.name === 'beside') return barsNeeded(node.args[1])
      if (node.name === 'barssince' || node.name === 'certainly') return barsNeeded(node.args[0])
      const span = node.args.find((arg) => arg.kind === 'duration')
      const bars = span && span.unit === 'bar' ? span.count : span ? span.count : 0
      const inner = Math.max(1, ...node.args.map(barsNeeded))
      if (node.name === 'recently' || node.name === 'always') return inner + bars - 1
      if (node.name === 'begins') return inner + 1
      return inner + bars
    }
    case 'cross':
      return 1 + Math.max(barsNeeded(node.left), barsNeeded(node.right))
    case 'arith':
    case 'compare':
      return Math.max(barsNeeded(node.left), barsNeeded(node.right))
    case 'between':
      return Math.max(barsNeeded(node.of), barsNeeded(node.low), barsNeeded(node.high))
    case 'logic':
    case 'fan':
      return Math.max(...node.parts.map(barsNeeded))
    case 'negate':
    case 'not':
      return barsNeeded(node.of)
    default:
      return 1
  }
}

/** Unit of a number-valued tree; 'number' where it is yes/no or has an issue. */
export function unitOf(tree: Node, every: Timeframe): Unit {
  const { type } = checkTree(tree, every)
  return type?.is === 'number' ? type.unit : 'number'
}
