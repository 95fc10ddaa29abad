import { describe, expect, it } from '@jest/globals'
import * as kernel from './kernels'
import { commonUnit, percentFactor, productUnit, quotientUnit } from './units'
import { FAILS, HOLDS, UNKNOWN, type Verdict, verdictOf } from './verdict'

const ANSWERS = [FAILS, HOLDS, UNKNOWN]
const table = (join: typeof kernel.both): Verdict[] =>
  ANSWERS.flatMap((a) =>
    ANSWERS.map((b) => {
      const out = new Uint8Array(1)
      join(Uint8Array.of(a), Uint8Array.of(b), out)
      return verdictOf(out[0])
    }),
  )

describe('three-valued logic (Kleene, Introduction to Metamathematics, 1952, section 64)', () => {
  it('and', () =>
    expect(table(kernel.both)).toEqual([
      'fails',
      'fails',
      'fails',
      'fails',
      'holds',
      'unknown',
      'fails',
      'unknown',
      'unknown',
    ]))
  it('or', () =>
    expect(table(kernel.either)).toEqual([
      'fails',
      'holds',
      'unknown',
      'holds',
      'holds',
      'holds',
      'unknown',
      'holds',
      'unknown',
    ]))
  it('not', () => {
    const out = new Uint8Array(3)
    kernel.not(Uint8Array.of(FAILS, HOLDS, UNKNOWN), out)
    expect([...out]).toEqual([HOLDS, FAILS, UNKNOWN])
  })
})

describe('comparisons', () => {
  const run = (op: Parameters<typeof kernel.compare>[0]) => {
    const out = new Uint8Array(5)
    kernel.compare(op, Float64Array.of(1, 2, 3, NaN, 1), Float64Array.of(2, 2, 2, 1, NaN), out)
    return [...out].map(verdictOf)
  }
  it.each([
    ['>', 'fails fails holds unknown unknown'],
    ['<', 'holds fails fails unknown unknown'],
    ['>=', 'fails holds holds unknown unknown'],
    ['<=', 'holds holds fails unknown unknown'],
    ['=', 'fails holds fails unknown unknown'],
  ] as const)('%s', (op, wanted) => expect(run(op).join(' ')).toBe(wanted))

  it('a touch is no crossing; from the touch on is one', () => {
    const out = new Uint8Array(5)
    kernel.crosses('above', Float64Array.of(1, 2, 2, 3, 4), new Float64Array(5).fill(2), out)
    expect([...out].map(verdictOf)).toEqual(['unknown', 'fails', 'fails', 'holds', 'fails'])
    kernel.crosses('below', Float64Array.of(3, 1, 2, 1, 0), new Float64Array(5).fill(2), out)
    expect([...out].map(verdictOf)).toEqual(['unknown', 'holds', 'fails', 'holds', 'fails'])
  })

  it('nothing is divided by nought', () => {
    const out = new Float64Array(3)
    kernel.arith('/', Float64Array.of(1, 0, -1), Float64Array.of(0, 0, 0), out)
    expect([...out]).toEqual([NaN, NaN, NaN])
  })
})

describe('rows of another timeframe', () => {
  it('only those complete by then are looked at', () => {
    const rows = new Int32Array(5)
    kernel.rowCompleted(Float64Array.of(1, 2, 3, 4, 5), Float64Array.of(2, 4, Infinity), false, rows)
    expect([...rows]).toEqual([-1, 0, 0, 1, 1])
    // A bar that grows sees no coarse one that grows; one beside it, of the same length, it does.
    const [ends, others] = [Float64Array.of(1, 2, Infinity), Float64Array.of(1, 2, Infinity)]
    kernel.rowCompleted(ends, others, false, rows.subarray(0, 3))
    expect([...rows.subarray(0, 3)]).toEqual([0, 1, 1])
    kernel.rowCompleted(ends, others, true, rows.subarray(0, 3))
    expect([...rows.subarray(0, 3)]).toEqual([0, 1, 2])
    kernel.rowHolding(Float64Array.of(0, 1, 2, 3, 4), Float64Array.of(0, 2, 4), rows)
    expect([...rows]).toEqual([0, 0, 1, 1, 2])
  })
})

describe('units', () => {
  const number = (unit: Parameters<typeof productUnit>[0], literal = false) =>
    ({ is: 'number', unit, literal }) as const
  it('what may be added or compared', () => {
    expect(commonUnit(number('price'), number('price'))).toBe('price')
    expect(commonUnit(number('price'), number('number'))).toBe('price')
    expect(commonUnit(number('price'), number('percent'))).toBeUndefined()
    expect(commonUnit(number('money'), number('price', true))).toBe('money')
    expect(commonUnit(number('money'), number('price'))).toBeUndefined()
  })
  it.each([
    ['price', 'shares', 'money'],
    ['number', 'price', 'price'],
    ['percent', 'price', 'price'],
    ['price', 'price', 'number'],
  ] as const)('%s times %s is %s', (a, b, unit) => expect(productUnit(a, b)).toBe(unit))
  it.each([
    ['price', 'price', 'number'],
    ['money', 'shares', 'price'],
    ['money', 'price', 'shares'],
    ['price', 'number', 'price'],
    ['percent', 'percent', 'number'],
  ] as const)('%s by %s is %s', (a, b, unit) => expect(quotientUnit(a, b)).toBe(unit))
  it('close * 5% is a twentieth of close, close / 50% twice close', () => {
    expect(percentFactor('*', 'price', 'percent') * 5).toBeCloseTo(0.05)
    expect(percentFactor('/', 'price', 'percent') / 50).toBe(2)
    expect(percentFactor('*', 'number', 'percent')).toBe(1)
  })
})
