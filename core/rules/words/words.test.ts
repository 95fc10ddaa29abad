import { describe, expect, it } from '@jest/globals'
import { Slots } from '../../indicators/slots'
import { type Form } from '../exec/form'
import { rowCompleted, rowHolding } from '../exec/columns'
import { FAILS, HOLDS, UNKNOWN, type Verdict, verdictOf } from '../verdict'
import { FUNCTIONS, relation, sign, WORDS } from '.'

/** What both forms of a word answer over some rows; they must not differ. */
function answers(form: Form, ins: (Float64Array | Uint8Array)[]): number[] {
  const out = new Uint8Array(ins[0].length)
  form.column(ins, [out])
  const step = form.steps(new Slots())
  const one = new Float64Array(1)
  const stepped = Array.from(out, (_, i) => {
    step(
      Float64Array.from(ins, (column) => column[i]),
      one,
      true,
    )
    return one[0]
  })
  expect(stepped).toEqual([...out])
  return stepped
}

const verdicts = (form: Form, ...ins: (Float64Array | Uint8Array)[]): Verdict[] =>
  answers(form, ins).map(verdictOf)

const ANSWERS = [FAILS, HOLDS, UNKNOWN]
const pairs = ANSWERS.flatMap((a) => ANSWERS.map((b) => [a, b]))
const joined = (name: string): string =>
  verdicts(
    sign(name).means.form({ count: 2 }),
    Uint8Array.from(pairs, ([a]) => a),
    Uint8Array.from(pairs, ([, b]) => b),
  ).join(' ')

describe('three-valued logic (Kleene, Introduction to Metamathematics, 1952, section 64)', () => {
  it('and', () => expect(joined('and')).toBe('fails fails fails fails holds unknown fails unknown unknown'))
  it('or', () => expect(joined('or')).toBe('fails holds unknown holds holds holds unknown holds unknown'))
  it('not', () =>
    expect(verdicts(sign('not').means.form({ count: 1 }), Uint8Array.from(ANSWERS)).join(' ')).toBe(
      'holds fails unknown',
    ))
})

/** The answers of a relation that is compared to the last bit. */
const related = (how: string, left: number[], right: number[]): string => {
  const { means } = relation(how)
  if (!('form' in means)) throw new Error(`${how} is more than an operation`)
  return verdicts(means.form(undefined), Float64Array.from(left), Float64Array.from(right)).join(' ')
}

describe('relations', () => {
  it.each([
    ['>', 'fails fails holds unknown unknown'],
    ['<', 'holds fails fails unknown unknown'],
    ['>=', 'fails holds holds unknown unknown'],
    ['<=', 'holds holds fails unknown unknown'],
    ['=', 'fails holds fails unknown unknown'],
  ])('%s', (how, wanted) => expect(related(how, [1, 2, 3, NaN, 1], [2, 2, 2, 1, NaN])).toBe(wanted))

  it('a touch is no crossing; from the touch on is one', () => {
    const two = [2, 2, 2, 2, 2]
    expect(related('crosses above', [1, 2, 2, 3, 4], two)).toBe('unknown fails fails holds fails')
    expect(related('crosses below', [3, 1, 2, 1, 0], two)).toBe('unknown holds fails holds fails')
  })

  it('nothing is divided by nought', () => {
    const out = new Float64Array(3)
    sign('/')
      .means.form({ count: 2 })
      .column([Float64Array.of(1, 0, -1), new Float64Array(3)], [out])
    expect([...out]).toEqual([NaN, NaN, NaN])
  })
})

describe('every definition', () => {
  it('says what it is, where it is from and what makes it unknown', () => {
    for (const { name, doc, source, unknown } of WORDS.values())
      expect([name, doc, source, unknown].every((text) => text.length > 0)).toBe(true)
  })

  it('has a counterpart that has it as its own', () => {
    for (const { name, opposite } of WORDS.values())
      if (opposite.name !== undefined) expect(WORDS.get(opposite.name)?.opposite.name).toBe(name)
  })

  it('is used as it says', () => {
    for (const { name, usage, takes } of FUNCTIONS.values()) {
      expect(usage.startsWith(`${name}(`)).toBe(true)
      expect(takes.length).toBeGreaterThan(0)
    }
  })
})

describe('rows of another timeframe', () => {
  it('only those complete by then are looked at', () => {
    const rows = new Int32Array(5)
    rowCompleted(Float64Array.of(1, 2, 3, 4, 5), Float64Array.of(2, 4, Infinity), false, rows)
    expect([...rows]).toEqual([-1, 0, 0, 1, 1])
    // A bar that grows sees no coarse one that grows; one beside it, of the same length, it does.
    const [ends, others] = [Float64Array.of(1, 2, Infinity), Float64Array.of(1, 2, Infinity)]
    rowCompleted(ends, others, false, rows.subarray(0, 3))
    expect([...rows.subarray(0, 3)]).toEqual([0, 1, 1])
    rowCompleted(ends, others, true, rows.subarray(0, 3))
    expect([...rows.subarray(0, 3)]).toEqual([0, 1, 2])
    rowHolding(Float64Array.of(0, 1, 2, 3, 4), Float64Array.of(0, 2, 4), rows)
    expect([...rows]).toEqual([0, 0, 1, 1, 2])
  })
})
