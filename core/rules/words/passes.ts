import { AS_PRICE } from '../../indicators/types'
import { type Column, type Form } from '../exec/form'
import { FAILS, HOLDS, UNKNOWN } from '../verdict'
import { type Node } from '../tree'
import { type FunctionWord } from './types'

type Way = 'up' | 'down' | 'either'

/** Prices that differ by less than this share are the same: a level of a slanting line is reckoned. */
const SAME = 1e-9

/** 1 where a price lies above a level, -1 below, 0 on it. */
const sideOf = (price: number, level: number): number => {
  const difference = price - level
  return Math.abs(difference) <= SAME * Math.abs(level) ? 0 : Math.sign(difference)
}

/** Whether one step of the price, from one trade to the next, comes to a level or beyond it. */
const steps: Record<Way, (from: number, to: number, level: number) => boolean> = {
  up: (from, to, level) => sideOf(from, level) < 0 && sideOf(to, level) >= 0,
  down: (from, to, level) => sideOf(from, level) > 0 && sideOf(to, level) <= 0,
  either: (from, to, level) => sideOf(from, level) * sideOf(to, level) <= 0 && sideOf(from, level) !== 0,
}

/** Places of the inputs: the level, the bar, and of a message of quotes the price before it and its range. */
const [LEVEL, OPEN, HIGH, LOW, CLOSE, FROM, PATH_HIGH, PATH_LOW] = [0, 1, 2, 3, 4, 5, 6, 7]

/**
 * The path goes from the price before to the first price, to the extreme that lies nearer to it, to the other and to the last
 * price (common practice). Of a bar the price before is the close of the bar before; of a message of quotes, the last price known.
 */
function answer(way: Way, ins: ArrayLike<number>, before: number): number {
  const level = ins[LEVEL]
  const ticked = ins[FROM] === ins[FROM]
  const last = ins[CLOSE]
  const first = ticked ? ins[FROM] : ins[OPEN]
  const high = ticked ? ins[PATH_HIGH] : ins[HIGH]
  const low = ticked ? ins[PATH_LOW] : ins[LOW]
  if (level !== level || last !== last || first !== first) return UNKNOWN
  const passes = steps[way]
  const upFirst = high - first <= first - low
  const [one, other] = upFirst ? [high, low] : [low, high]
  const gap = !ticked && before === before && passes(before, first, level)
  return gap || passes(first, one, level) || passes(one, other, level) || passes(other, last, level)
    ? HOLDS
    : FAILS
}

const form = (way: Way): Form => ({
  column: (ins: readonly Column[], [out]) => {
    const row = new Float64Array(ins.length)
    let before = NaN
    for (let i = 0; i < out.length; i++) {
      for (let k = 0; k < row.length; k++) row[k] = ins[k][i]
      out[i] = answer(way, row, before)
      before = ins[CLOSE][i]
    }
  },
  steps: (slots) => {
    const before = slots.cell(NaN)
    return (ins, outs, keep) => {
      outs[0] = answer(way, ins, before[0])
      if (keep) before[0] = ins[CLOSE]
    }
  },
})

const NAMES = { low: { kind: 'name', name: 'low' }, high: { kind: 'name', name: 'high' } } as const
const READS: readonly Node[] = [NAMES.low, NAMES.high]

const passing = (
  name: string,
  way: Way,
  opposite: FunctionWord['opposite'],
  text: string,
  also: readonly string[],
): FunctionWord => ({
  kind: 'function',
  name,
  usage: `${name}(level)`,
  doc: `The moment the price comes ${text} to a level or beyond it: within the bar, or with an open beyond it. Between bars every price is compared with the last one known before.`,
  source: 'Definition; the path of a bar by common practice, the nearer extreme first',
  also,
  unknown: 'the level is not known, or the bar has no price',
  opposite,
  takes: ['number'],
  gives: 'moment',
  needs: ([of], needs) => needs(of),
  explains: {
    reads: READS,
    say: (holds, { args: [level] }, named) =>
      `the price ${holds ? 'came' : 'did not come'} ${text} to ${named(level)}, ${named(NAMES.low)} to ${named(NAMES.high)}`,
  },
  means: {
    graph: ({ args: [level] }, site) =>
      site.form(name, 'verdicts', form(way), [
        site.of(level),
        ...(['open', 'high', 'low', 'close', 'from', 'pathhigh', 'pathlow'] as const).map((column) =>
          site.column(column),
        ),
      ]),
  },
})

/** Words for a price that passes a level, whatever the length of the bars: what a drawn line is watched with. */
export const PASSES: readonly FunctionWord[] = [
  passing('passesup', 'up', { ...AS_PRICE, name: 'passesdown' }, 'up', [
    'breaks up through',
    'passes upwards',
  ]),
  passing('passesdown', 'down', { ...AS_PRICE, name: 'passesup' }, 'down', [
    ...['breaks down through', 'passes downwards'],
  ]),
  passing('passes', 'either', { goes: 'price' }, 'up or down', ['passes either way', 'breaks through']),
]
