import { CURRENCY_SIGNS, type Node } from './tree'

/** How tightly a node binds; a part that binds more loosely than its place needs brackets. */
const LOOSE = { or: 1, and: 2, not: 3, comparison: 4, sum: 5, product: 6, sign: 7, value: 8 } as const

function binding(node: Node): number {
  switch (node.kind) {
    case 'logic':
      return LOOSE[node.op]
    case 'not':
      return LOOSE.not
    case 'relate':
    case 'between':
      return LOOSE.comparison
    case 'arith':
      return node.op === '+' || node.op === '-' ? LOOSE.sum : LOOSE.product
    case 'negate':
      return LOOSE.sign
    default:
      return LOOSE.value
  }
}

const within = (node: Node, needed: number): string =>
  binding(node) < needed ? `(${print(node)})` : print(node)

/** A number as one would write it: 1.5M, 200k, 0.0001; parses back to the same double. */
function numberText(value: number): string {
  for (const [suffix, power] of [
    ['B', 'e9'],
    ['M', 'e6'],
  ] as const) {
    const size = value / Number(`1${power}`)
    const text = String(size)
    if (size >= 1 && text.length <= 6 && Number(text + power) === value) return text + suffix
  }
  const text = String(value)
  if (!text.includes('e')) return text
  // Exponents are not part of rule text: write the digits out.
  return value < 1 ? value.toFixed(20).replace(/0+$/, '') : BigInt(value).toString()
}

const clock = (minutes: number): string =>
  `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`

const plural = (count: number, unit: string): string =>
  count === 1 || unit === 'min' ? `${count} ${unit}` : `${count} ${unit}s`

const currencySign = (currency: string | undefined): string =>
  Object.entries(CURRENCY_SIGNS).find(([, code]) => code === (currency ?? 'USD'))![0]

/** Canonical text of a tree: single spaces, only the brackets that are needed. print(parse(text)) is stable. */
export function print(node: Node): string {
  switch (node.kind) {
    case 'number':
      if (node.unit === 'price') return `${currencySign(node.currency)}${numberText(node.value)}`
      if (node.unit === 'percent') return `${numberText(node.value)}%`
      if (node.unit === 'ticks') return `${numberText(node.value)} ticks`
      return numberText(node.value)
    case 'duration':
      return plural(node.count, node.unit)
    case 'time':
      return clock(node.minutes)
    case 'text':
      return `"${node.value}"`
    case 'name':
      return node.name
    case 'call':
      return `${node.name}${node.args.length > 0 ? `(${node.args.map(print).join(', ')})` : ''}${node.output ? `.${node.output}` : ''}`
    case 'negate':
      return `-${within(node.of, LOOSE.sign)}`
    case 'arith': {
      const own = binding(node)
      return `${within(node.left, own)} ${node.op} ${within(node.right, own + 1)}`
    }
    case 'relate':
      return `${within(node.left, LOOSE.sum)} ${node.how} ${within(node.right, LOOSE.sum)}`
    case 'between':
      return `${within(node.of, LOOSE.sum)} between ${within(node.low, LOOSE.sum)} and ${within(node.high, LOOSE.sum)}`
    case 'logic':
      return node.parts.map((part) => within(part, LOOSE[node.op] + 1)).join(` ${node.op} `)
    case 'fan':
      return `${node.each} of (${node.parts.map(print).join(', ')})`
    case 'not':
      return `not ${within(node.of, LOOSE.not)}`
  }
}
