import { AS_PRICE } from '../../indicators/types'
import { sideOf } from '../../market/paper'
import { type Column, type Form } from '../exec/form'
import { FAILS, HOLDS, UNKNOWN } from '../verdict'
import { GAP } from './shared'
import { type Paper, type RelationWord } from './types'

/** For each comparison, its verdict where the left side stands below, on and above the right one. */
type Three = readonly [number, number, number]

const verdict = ([below, on, above]: Three, side: number): number =>
  side > 0 ? above : side < 0 ? below : side === 0 ? on : UNKNOWN

/** Of what size the numbers are from which two sides were made, on a row. */
export const sizeAt = ({ sized, least }: Paper, of: ArrayLike<number>, i: number): number =>
  sized && Math.abs(of[i]) > least ? Math.abs(of[i]) : least

/** Compares two columns as they stand, to the last bit; an unknown side makes both comparisons of a line fail. */
function compareExactly(sides: Three, a: Column, b: Column, out: Column): void {
  const [below, on, above] = sides
  for (let i = 0; i < out.length; i++)
    out[i] = a[i] > b[i] ? above : a[i] < b[i] ? below : a[i] === b[i] ? on : UNKNOWN
}

function compareOnPaper(sides: Three, paper: Paper, [a, b, of]: readonly Column[], out: Column): void {
  for (let i = 0; i < out.length; i++) out[i] = verdict(sides, sideOf(a[i], b[i], sizeAt(paper, of, i)))
}

const form =
  (sides: Three) =>
  (paper: Paper | undefined): Form => ({
    column: (ins, [out]) =>
      paper ? compareOnPaper(sides, paper, ins, out) : compareExactly(sides, ins[0], ins[1], out),
    steps: () => (ins, outs) => {
      const side = paper ? sideOf(ins[0], ins[1], sizeAt(paper, ins, 2)) : ins[0] - ins[1]
      outs[0] = verdict(sides, side)
    },
  })

const comparison = (name: string, other: string, words: string, doc: string, sides: Three): RelationWord => ({
  kind: 'relation',
  name,
  usage: `x ${name} y`,
  doc,
  source: 'Definition; what is equal on paper is equal',
  also: [words],
  unknown: GAP,
  opposite: { ...AS_PRICE, name: other },
  gives: 'state',
  back: 0,
  means: { form: form(sides) },
  say: (holds, left, right) => `${left} is ${holds ? '' : 'not '}${words} ${right}`,
})

export const COMPARISONS: readonly RelationWord[] = [
  comparison('>', '<', 'above', 'The left value is greater.', [FAILS, FAILS, HOLDS]),
  comparison('<', '>', 'below', 'The left value is smaller.', [HOLDS, FAILS, FAILS]),
  comparison('>=', '<=', 'at or above', 'The left value is greater, or both are equal.', [
    FAILS,
    HOLDS,
    HOLDS,
  ]),
  comparison('<=', '>=', 'at or below', 'The left value is smaller, or both are equal.', [
    HOLDS,
    HOLDS,
    FAILS,
  ]),
  comparison('=', '=', 'equal to', 'Both values are equal.', [FAILS, HOLDS, FAILS]),
]
