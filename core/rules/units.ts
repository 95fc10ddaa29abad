import { type Unit } from '../indicators/types'
import { type Arithmetic } from './tree'

/**
 * What a number measures, as exponents: a price is money for a share, a percentage a ratio that is held in hundredths.
 * `money` has an exponent for each currency: an ISO code, `OWN` for that of the security itself, or a symbol in quotes
 * for that of a named one. Exponents of nought are left out. A ratio among others says only that a percentage was a factor.
 */
export interface Dimensions {
  readonly money: Readonly<Record<string, number>>
  readonly shares: number
  readonly contracts: number
  readonly time: number
  readonly ticks: number
  readonly ratio: number
}

/** The currency of the security that a rule is run on. */
export const OWN = 'own'

const COUNTS = ['shares', 'contracts', 'time', 'ticks', 'ratio'] as const
const NONE: Dimensions = { money: {}, shares: 0, contracts: 0, time: 0, ticks: 0, ratio: 0 }

/** The dimensions of a unit by name, its money in a currency. */
export function dimensionsOf(unit: Unit, currency = OWN): Dimensions {
  switch (unit) {
    case 'number':
      return NONE
    case 'price':
      return { ...NONE, money: { [currency]: 1 }, shares: -1 }
    case 'money':
      return { ...NONE, money: { [currency]: 1 } }
    case 'percent':
      return { ...NONE, ratio: 1 }
    case 'clock':
      return { ...NONE, time: 1 }
    default:
      return { ...NONE, [unit]: 1 }
  }
}

const moneyOf = ({ money }: Dimensions): number => Object.values(money).reduce((sum, n) => sum + n, 0)

/** Whether nothing but a ratio is left. */
const isBare = (d: Dimensions): boolean =>
  moneyOf(d) === 0 && d.shares === 0 && d.contracts === 0 && d.time === 0 && d.ticks === 0

/** The unit's name; 'number' for what has none, such as a price times a price. */
export function nameOfUnit(d: Dimensions): Unit {
  if (isBare(d)) return d.ratio > 0 ? 'percent' : 'number'
  const money = moneyOf(d)
  const is = (m: number, shares: number, contracts: number, time: number, ticks: number) =>
    money === m && d.shares === shares && d.contracts === contracts && d.time === time && d.ticks === ticks
  if (is(1, -1, 0, 0, 0)) return 'price'
  if (is(1, 0, 0, 0, 0)) return 'money'
  if (is(0, 1, 0, 0, 0)) return 'shares'
  if (is(0, 0, 1, 0, 0)) return 'contracts'
  if (is(0, 0, 0, 1, 0)) return 'clock'
  return is(0, 0, 0, 0, 1) ? 'ticks' : 'number'
}

/** The unit's name, or for what has none its dimensions in words: "money² for each shares²". */
export function unitWords(d: Dimensions): string {
  const name = nameOfUnit(d)
  if (name !== 'number' || isBare(d)) return name
  const power = (name: string, n: number) =>
    `${name}${n === 1 ? '' : [...String(n)].map((c) => '⁰¹²³⁴⁵⁶⁷⁸⁹'[Number(c)]).join('')}`
  const all: [string, number][] = [
    ['money', moneyOf(d)],
    ...COUNTS.filter((name) => name !== 'ratio').map((name): [string, number] => [name, d[name]]),
  ]
  const over = all.filter(([, n]) => n > 0).map(([name, n]) => power(name, n))
  const under = all.filter(([, n]) => n < 0).map(([name, n]) => power(name, -n))
  return `${over.join(' × ') || 'one'}${under.length > 0 ? ` for each ${under.join(' × ')}` : ''}`
}

/** Of a product or a quotient: exponents add up, or are taken from each other. */
export function combined(op: '*' | '/', a: Dimensions, b: Dimensions): Dimensions {
  const sign = op === '*' ? 1 : -1
  const money: Record<string, number> = { ...a.money }
  for (const [currency, n] of Object.entries(b.money)) {
    money[currency] = (money[currency] ?? 0) + sign * n
    if (money[currency] === 0) delete money[currency]
  }
  const out = { money } as Record<string, unknown>
  for (const name of COUNTS) out[name] = a[name] + sign * b[name]
  return out as unknown as Dimensions
}

/** By how much larger than its true size a value is held: percentages in hundredths (5, not 0.05). */
const scaleOf = (d: Dimensions): number => (isBare(d) && d.ratio > 0 ? 100 : 1)

/**
 * What a product or quotient of values as they are held is multiplied by: close * 5% is a twentieth of close,
 * 2 * 5% is 10%, close / 50% is twice close.
 */
export function heldFactor(op: Arithmetic, a: Dimensions, b: Dimensions): number {
  if (op !== '*' && op !== '/') return 1
  const [left, right, out] = [scaleOf(a), scaleOf(b), scaleOf(combined(op, a, b))]
  return op === '*' ? out / (left * right) : (out * right) / left
}

export interface NumberType {
  is: 'number'
  unit: Dimensions
  /** Written as a plain value, or made of such: it takes the unit of what it stands beside. */
  literal: boolean
}

/** How two values come together in a sum or a comparison. */
export interface Agreement {
  unit: Dimensions
  /** What the left and the right value are multiplied by: a ratio beside a percentage is brought to hundredths. */
  factors: readonly [number, number]
  /** Currencies that must be one and the same; otherwise the answer is unknown. */
  same?: readonly [string, string]
}

export type Disagreement = { wrong: 'unit' } | { wrong: 'currency'; left: string; right: string }

const AS_THEY_ARE = [1, 1] as const

/** Whether two values can be added or compared, and how. `isoOf` tells the currency of a named security, where known. */
export function agree(
  left: NumberType,
  right: NumberType,
  isoOf: (currency: string) => string | undefined = () => undefined,
): Agreement | Disagreement {
  const [a, b] = [left.unit, right.unit]
  const [bareA, bareB] = [isBare(a), isBare(b)]
  if (a.time !== b.time) return { wrong: 'unit' }
  if (bareA && bareB) {
    const [from, to] = [scaleOf(a), scaleOf(b)]
    if (from === to) return { unit: a, factors: AS_THEY_ARE }
    // A plain number beside a percentage means as many hundredths; a ratio that was worked out is brought to them.
    const [plain, percent] = from === 1 ? [left, b] : [right, a]
    if (plain.literal) return { unit: percent, factors: AS_THEY_ARE }
    return { unit: percent, factors: from === 1 ? [100, 1] : [1, 100] }
  }
  const adapts = (one: NumberType) => one.literal && isBare(one.unit) && one.unit.ratio === 0
  if (bareA) return adapts(left) ? { unit: b, factors: AS_THEY_ARE } : { wrong: 'unit' }
  if (bareB) return adapts(right) ? { unit: a, factors: AS_THEY_ARE } : { wrong: 'unit' }
  const [nameA, nameB] = [nameOfUnit(a), nameOfUnit(b)]
  // "$1.5M" is written like a price and stands for money too.
  const amount =
    (nameA === 'money' && nameB === 'price' && right.literal) ||
    (nameB === 'money' && nameA === 'price' && left.literal)
  const alike =
    moneyOf(a) === moneyOf(b) && a.shares === b.shares && a.contracts === b.contracts && a.ticks === b.ticks
  if (!alike && !amount) return { wrong: 'unit' }
  const unit = amount && nameB === 'money' ? b : a
  return { unit, factors: AS_THEY_ARE, ...currencies(a, b, isoOf) }
}

/** The two currencies that must be the same for amounts to come together; none where they are. */
function currencies(
  a: Dimensions,
  b: Dimensions,
  isoOf: (currency: string) => string | undefined,
): { same?: readonly [string, string] } | Disagreement {
  const left = Object.keys(a.money).find((currency) => a.money[currency] !== b.money[currency])
  const right = Object.keys(b.money).find((currency) => b.money[currency] !== a.money[currency])
  if (left === undefined || right === undefined || left === right) return {}
  const [one, other] = [isoOf(left), isoOf(right)]
  if (one !== undefined && other !== undefined)
    return one === other ? {} : { wrong: 'currency', left: one, right: other }
  return { same: [left, right] }
}
