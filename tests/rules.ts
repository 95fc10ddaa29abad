import fc from 'fast-check'
import { type Node } from '@/core/rules'

/** Random trees that the checker takes, of every kind that daily bars can answer. */

const literal = fc
  .integer({ min: 1, max: 4000 })
  .map((n): Node => ({ kind: 'number', value: n / 100, unit: 'number' }))
const whole = (max: number) =>
  fc.integer({ min: 1, max }).map((value): Node => ({ kind: 'number', value, unit: 'number' }))
const bars = fc.integer({ min: 1, max: 6 }).map((count): Node => ({ kind: 'duration', count, unit: 'bar' }))
const price = fc.constantFrom('open', 'high', 'low', 'close').map((name): Node => ({ kind: 'name', name }))

const each = fc.constantFrom('all' as const, 'any' as const)

const call = (name: string, args: Node[], output?: string): Node => ({
  kind: 'call',
  name,
  args,
  ...(output ? { output } : {}),
})

const RELATED = ['>', '<', '>=', '<=', '=', 'crosses above', 'crosses below', 'changes sides of', 'meets']

export const { value, condition } = fc.letrec<{ value: Node; condition: Node }>((tie) => ({
  value: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    price,
    literal,
    fc.tuple(tie('value'), whole(7)).map(([x, n]) => call('sma', [named(x), n])),
    fc
      .tuple(fc.constantFrom('ema', 'wma', 'highest', 'lowest'), price, whole(7))
      .map(([f, x, n]) => call(f, [x, n])),
    fc
      .tuple(price, whole(6), fc.constantFrom('middle', 'upper', 'lower'))
      .map(([x, n, o]) => call('bollinger', [x, n], o)),
    fc.tuple(tie('value'), bars).map(([x, n]) => call('earlier', [named(x), n])),
    tie('value').map((x) => call('on', [{ kind: 'duration', count: 1, unit: 'week' }, named(x)])),
    tie('value').map((x) => call('abs', [x])),
    fc
      .tuple(fc.constantFrom('least', 'greatest'), fc.array(tie('value'), { minLength: 1, maxLength: 3 }))
      .map(([f, xs]) => call(f, xs)),
    tie('condition').map((c) => call('barssince', [c])),
    tie('value').map((x) => call('beside', [{ kind: 'text', value: 'TWIN' }, named(x)])),
    tie('value').map((of): Node => ({ kind: 'negate', of })),
    fc
      .record({
        op: fc.constantFrom('+' as const, '-' as const, '*' as const, '/' as const),
        left: tie('value'),
        right: literal,
      })
      .map((parts): Node => ({ kind: 'arith', ...parts })),
  ),
  condition: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    fc
      .record({
        how: fc.constantFrom(...RELATED),
        left: tie('value'),
        right: tie('value'),
      })
      .map((parts): Node => ({ kind: 'relate', ...parts })),
    fc
      .record({ of: tie('value'), low: tie('value'), high: tie('value') })
      .map((parts): Node => ({ kind: 'between', ...parts })),
    fc
      .tuple(
        fc.constantFrom('and' as const, 'or' as const),
        fc.array(tie('condition'), { minLength: 2, maxLength: 3 }),
      )
      // Parts of the same kind are one list in the tree, as in the text.
      .map(([op, parts]): Node => ({
        kind: 'logic',
        op,
        parts: parts.flatMap((p) => (p.kind === 'logic' && p.op === op ? p.parts : [p])),
      })),
    tie('condition').map((of): Node => ({ kind: 'not', of })),
    fc
      .tuple(each, fc.array(tie('condition'), { minLength: 2, maxLength: 3 }))
      .map(([each, parts]): Node => ({ kind: 'fan', each, parts })),
    fc
      .record({
        how: fc.constantFrom('>', '<='),
        left: tie('value'),
        right: fc
          .tuple(each, fc.array(tie('value'), { minLength: 2, maxLength: 3 }))
          .map(([each, parts]): Node => ({ kind: 'fan', each, parts })),
      })
      .map((parts): Node => ({ kind: 'relate', ...parts })),
    tie('condition').map((c) => call('on', [{ kind: 'duration', count: 1, unit: 'week' }, c])),
    whole(5).map((n) => call('new high', [n])),
    fc.constant<Node>({ kind: 'name', name: 'gap up' }),
    fc
      .tuple(fc.constantFrom('recently', 'always'), tie('condition'), bars)
      .map(([f, c, n]) => call(f, [c, n])),
    fc
      .tuple(fc.constantFrom('climbs', 'sinks'), tie('value'), bars)
      .map(([f, x, n]) => call(f, [named(x), n])),
    tie('condition').map((c) => call('begins', [c])),
    tie('condition').map((c) => call('certainly', [c])),
    tie('condition').map((c) => call('first', [c])),
    fc.tuple(tie('condition'), tie('condition')).map((both) => call('once', both)),
    tie('value').map((x) => call('reaches', [named(x)])),
    fc
      .tuple(fc.constantFrom('passes', 'passesup', 'passesdown'), tie('value'))
      .map(([f, x]) => call(f, [named(x)])),
  ),
}))

/** A lone number as the series of a function would be taken for a parameter: add it to a price instead. */
function named(x: Node): Node {
  return x.kind === 'number' ? { kind: 'arith', op: '+', left: { kind: 'name', name: 'close' }, right: x } : x
}

/** A tree without its places in the text. */
export const bare = (node: Node): unknown =>
  JSON.parse(JSON.stringify(node, (key, part: unknown) => (key === 'at' ? undefined : part)))
