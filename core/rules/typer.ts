import { INDICATORS } from '../indicators'
import { type Unit } from '../indicators/types'
import { type Timeframe } from '../market/timeframe'
import { spreadFan } from './fan'
import { type Issue } from './issues'
import { type Names, placeOf, wrongDate, wrongDuration, wrongText } from './literals'
import { nearest } from './near'
import { print } from './print'
import { resolveCall } from './resolve'
import { type CallNode, type Node, type Span } from './tree'
import {
  agree,
  type Agreement,
  combined,
  type Dimensions,
  dimensionsOf,
  nameOfUnit,
  type NumberType,
  OWN,
  unitWords,
} from './units'
import { ENTRIES, FUNCTIONS, NAMES, RELATIONS } from './words'
import { type FunctionWord, type Takes } from './words/types'

/** What an expression gives: a number with a unit, or yes/no that lasts (state) or happens (moment). */
export type Type = NumberType | { is: 'yes/no'; nature: 'state' | 'moment' }

const yesNo = (nature: 'state' | 'moment'): Type => ({ is: 'yes/no', nature })

const names = (): string[] => ENTRIES.map((entry) => entry.name)

/**
 * Finds the type of every part of a tree, each once, and what is wrong with it. Inside `beside(…)` prices are those of
 * the other security: a part has a type in the currency of where it stands.
 */
export class Typer {
  readonly issues: Issue[] = []
  private readonly known = new WeakMap<Node, Map<string, Type | undefined>>()
  private home = OWN

  constructor(
    private readonly every: Timeframe,
    private readonly about: Names = {},
  ) {}

  /** Type of a node, or undefined where it has an issue, which is then in the list. */
  typeOf(node: Node, home = OWN): Type | undefined {
    const before = this.home
    this.home = home
    const type = this.visit(node)
    this.home = before
    return type
  }

  /** Whether a part is yes/no; false where it has an issue. */
  isCondition = (node: Node, home?: string): boolean => this.typeOf(node, home)?.is === 'yes/no'

  /** The unit's name of a number; 'number' where it is yes/no or has an issue. */
  unitOf(node: Node, home?: string): Unit {
    const type = this.typeOf(node, home)
    return type?.is === 'number' ? nameOfUnit(type.unit) : 'number'
  }

  /** How the two sides of a sum or comparison come together; undefined where they do not. */
  agreement(left: Node, right: Node, home?: string): Agreement | undefined {
    const [a, b] = [this.typeOf(left, home), this.typeOf(right, home)]
    if (a?.is !== 'number' || b?.is !== 'number') return undefined
    const found = agree(a, b, this.isoOf)
    return 'wrong' in found ? undefined : found
  }

  private readonly isoOf = (currency: string): string | undefined =>
    currency === OWN
      ? undefined
      : currency.startsWith('"')
        ? this.about.currencyOf?.(currency.slice(1, -1))
        : currency

  private visit(node: Node): Type | undefined {
    let types = this.known.get(node)
    if (!types) this.known.set(node, (types = new Map()))
    if (types.has(this.home)) return types.get(this.home)
    const spread = spreadFan(node)
    const type = spread ? this.visit(spread) : this.make(node)
    types.set(this.home, type)
    return type
  }

  private number(unit: Unit, literal = false): NumberType {
    return { is: 'number', unit: dimensionsOf(unit, this.home), literal }
  }

  private make(node: Node): Type | undefined {
    const at = placeOf(node)
    switch (node.kind) {
      case 'number':
        return { is: 'number', unit: dimensionsOf(node.unit, node.currency ?? 'USD'), literal: true }
      case 'time':
        return this.number('clock', true)
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
      case 'relate': {
        const word = RELATIONS.get(node.how)
        if (!word)
          return this.refuse({ code: 'unknown_name', name: node.how, near: [...RELATIONS.keys()], at })
        const [left, right] = [this.asNumber(node.left), this.asNumber(node.right)]
        if (!left || !right || !this.together('compare', left, right, node.right)) return undefined
        return yesNo(word.gives)
      }
      case 'between': {
        const [of, low, high] = [node.of, node.low, node.high].map((part) => this.asNumber(part))
        if (!of || !low || !high) return undefined
        const fine =
          this.together('compare', of, low, node.low) && this.together('compare', of, high, node.high)
        return fine ? yesNo('state') : undefined
      }
      case 'logic': {
        const natures = node.parts.map((part) => this.asCondition(part))
        if (natures.includes(undefined)) return undefined
        // One moment among conditions makes the whole a moment; among alternatives it takes all of them.
        const moments = natures.filter((nature) => nature === 'moment').length
        const moment = node.op === 'and' ? moments > 0 : moments === natures.length
        return yesNo(moment ? 'moment' : 'state')
      }
      case 'not':
        return this.asCondition(node.of) && yesNo('state')
      case 'fan': {
        const natures = node.parts.map((part) => this.asCondition(part))
        return natures.includes(undefined) ? undefined : this.number('number')
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
    const word = NAMES.get(name)
    if (word) return word.unit === 'state' ? yesNo('state') : this.number(word.unit)
    // With nothing to be given, such as obv, an indicator may stand without brackets.
    if (INDICATORS.get(name)?.parameters.every((p) => p.preset !== undefined))
      return this.call({ kind: 'call', name, args: [], at })
    const entry = ENTRIES.find((e) => e.name === name)
    if (entry) return this.refuse({ code: 'needs_arguments', name, usage: entry.usage, at })
    return this.refuse({ code: 'unknown_name', name, near: nearest(name, names()), at })
  }

  private call(node: CallNode): Type | undefined {
    const at = placeOf(node)
    const word = FUNCTIONS.get(node.name)
    if (word) return this.functionCall(node, word)
    const indicator = INDICATORS.get(node.name)
    if (!indicator)
      return this.refuse({ code: 'unknown_name', name: node.name, near: nearest(node.name, names()), at })
    const resolved = resolveCall(node, indicator)
    if ('code' in resolved) return this.refuse(resolved)
    const inputs = resolved.series.map((series) => this.calculable(this.asNumber(series), series))
    if (inputs.includes(undefined)) return undefined
    const { unit } = indicator.outputs[resolved.output]
    if (unit === 'state' || unit === 'moment') return yesNo(unit)
    if (unit !== 'input') return this.number(unit)
    return { is: 'number', unit: inputs[0]?.unit ?? dimensionsOf('number'), literal: false }
  }

  private functionCall(node: CallNode, word: FunctionWord): Type | undefined {
    const at = placeOf(node)
    const { name, usage, takes, gives } = word
    const given = node.args.length
    if (word.many ? given < takes.length : given !== takes.length)
      return this.refuse({ code: 'argument_count', name, usage, given, at })
    const outputs = word.outputs ?? []
    if (node.output !== undefined && !outputs.includes(node.output))
      return this.refuse({ code: 'unknown_output', name, output: node.output, outputs: [...outputs], at })
    const before = this.home
    const inputs: Type[] = []
    const fine = node.args.map((arg, i) => {
      const type = this.argument(arg, takes[i] ?? takes.at(-1)!, word)
      if (type && type !== 'fine') inputs.push(type)
      return type !== undefined
    })
    this.home = before
    if (fine.includes(false)) return undefined
    if (gives === 'price' || gives === 'number') return this.number(gives)
    if (gives !== 'input') return yesNo(gives)
    const [first, ...others] = inputs
    if (first.is !== 'number') return first
    let unit: Dimensions = first.unit
    for (const [i, other] of others.entries()) {
      const now = { is: 'number', unit, literal: false } as const
      const one = i === 0 ? first : now
      const agreed =
        other.is === 'number' ? this.together('compare', one, other, node.args[i + 1]) : undefined
      if (!agreed) return undefined
      unit = agreed.unit
    }
    return { is: 'number', unit, literal: false }
  }

  /** Type of an argument, 'fine' for one that is no value, undefined where it has an issue. */
  private argument(arg: Node, wanted: Takes, word: FunctionWord): Type | 'fine' | undefined {
    switch (wanted) {
      case 'number':
        return this.asNumber(arg)
      case 'either':
        return this.visit(arg)
      case 'anchor':
        if (arg.kind === 'text') return this.fine(wrongDate(arg))
        return this.argument(arg, 'condition', word)
      case 'condition': {
        const nature = this.asCondition(arg)
        return nature && yesNo(nature)
      }
      case 'symbol':
        // What follows is said of that security.
        if (arg.kind === 'text') this.home = homeOf(arg.value)
        return this.fine(wrongText(arg, wanted, word, this.about))
      case 'drawn':
        return this.fine(wrongText(arg, wanted, word, this.about))
      default:
        return this.fine(wrongDuration(arg, wanted, word, this.every))
    }
  }

  private fine(issue: Issue | undefined): 'fine' | undefined {
    return issue ? this.refuse(issue) : 'fine'
  }

  /** A value that can be calculated with; a time of day can only be compared. */
  private calculable(type: NumberType | undefined, node: Node): NumberType | undefined {
    if (!type || type.unit.time === 0) return type
    return this.refuse({ code: 'no_arithmetic', unit: nameOfUnit(type.unit), at: placeOf(node) })
  }

  private arith(node: Extract<Node, { kind: 'arith' }>): Type | undefined {
    const left = this.calculable(this.asNumber(node.left), node.left)
    const right = this.calculable(this.asNumber(node.right), node.right)
    if (!left || !right) return undefined
    const literal = left.literal && right.literal
    const { op } = node
    if (op === '*' || op === '/') return { is: 'number', unit: combined(op, left.unit, right.unit), literal }
    const agreed = this.together('add', left, right, node.right, node.left)
    return agreed && { is: 'number', unit: agreed.unit, literal }
  }

  /** How two values are added or compared; an issue at the second where they cannot be. */
  private together(
    doing: 'add' | 'compare',
    left: NumberType,
    right: NumberType,
    place: Node,
    of?: Node,
  ): Agreement | undefined {
    const found = agree(left, right, this.isoOf)
    if (!('wrong' in found)) return found
    const at = placeOf(place)
    if (found.wrong === 'currency')
      return this.refuse({ code: 'currency_mismatch', left: found.left, right: found.right, at })
    const percentOf = doing === 'add' && nameOfUnit(right.unit) === 'percent' && of ? print(of) : undefined
    return this.refuse({
      code: 'unit_mismatch',
      doing,
      left: unitWords(left.unit),
      right: unitWords(right.unit),
      percentOf,
      at,
    })
  }
}

/** The currency of what stands beside: that of a named security; an index is quoted as its venue's securities are. */
export const homeOf = (symbol: string): string => (symbol === 'index' ? OWN : `"${symbol.toUpperCase()}"`)
