import { AS_PRICE } from '../../indicators/types'
import { sideOf } from '../../market/paper'
import { type Column, type Form } from '../exec/form'
import { FAILS, HOLDS, UNKNOWN } from '../verdict'
import { sizeAt } from './compare'
import { type Paper, type RelationWord } from './types'

/** The answer from the sides on the bar before and on this one: above nought, on it, below, or unknown. */
type Answer = (before: number, now: number) => number

const known =
  (crosses: (before: number, now: number) => boolean): Answer =>
  (before, now) =>
    now !== now || before !== before ? UNKNOWN : crosses(before, now) ? HOLDS : FAILS

function column(answer: Answer, paper: Paper | undefined, [a, b, of]: readonly Column[], out: Column): void {
  let before = NaN
  for (let i = 0; i < out.length; i++) {
    const now = paper ? sideOf(a[i], b[i], sizeAt(paper, of, i)) : a[i] - b[i]
    out[i] = answer(before, now)
    before = now
  }
}

const form =
  (answer: Answer) =>
  (paper: Paper | undefined): Form => ({
    column: (ins, [out]) => column(answer, paper, ins, out),
    steps: (slots) => {
      const before = slots.cell(NaN)
      return (ins, outs, keep) => {
        const now = paper ? sideOf(ins[0], ins[1], sizeAt(paper, ins, 2)) : ins[0] - ins[1]
        outs[0] = answer(before[0], now)
        if (keep) before[0] = now
      }
    },
  })

const crossing = (
  name: string,
  other: string,
  doc: string,
  also: readonly string[],
  say: RelationWord['say'],
  answer: (before: number, now: number) => boolean,
): RelationWord => ({
  kind: 'relation',
  name,
  usage: `x ${name} y`,
  doc,
  source: 'Definition; a touch from the same side is none',
  also,
  unknown: 'one of its values is not known, here or on the bar before',
  opposite: { ...AS_PRICE, name: other },
  gives: 'moment',
  back: 1,
  means: { form: form(known(answer)) },
  say,
})

const one =
  (way: 'above' | 'below'): RelationWord['say'] =>
  (holds, left, right, side) =>
    holds
      ? `${left} crossed ${way} ${right}`
      : side === (way === 'above' ? 1 : -1)
        ? `${left} was ${way} ${right} already on the bar before`
        : `${left} is not ${way} ${right}`

export const CROSSINGS: readonly RelationWord[] = [
  crossing(
    'crosses above',
    'crosses below',
    'The moment it rises past: was at or below on the bar before, is above now.',
    ['rises past', 'breaks out'],
    one('above'),
    (before, now) => before <= 0 && now > 0,
  ),
  crossing(
    'crosses below',
    'crosses above',
    'The moment it falls past: was at or above on the bar before, is below now.',
    ['falls past', 'breaks down'],
    one('below'),
    (before, now) => before >= 0 && now < 0,
  ),
  crossing(
    'changes sides of',
    'changes sides of',
    'The moment it crosses, either way: rises past or falls past.',
    ['crosses', 'crosses either way'],
    (holds, left, right) => `${left} ${holds ? 'changed' : 'did not change'} sides of ${right}`,
    (before, now) => (before <= 0 && now > 0) || (before >= 0 && now < 0),
  ),
]
