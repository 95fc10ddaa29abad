import { cases } from '@/tests/cases'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { condition } from '@/tests/rules'
import { parse, print } from '.'
import {
  type Group,
  insertAt,
  itemAt,
  moveTo,
  removeAt,
  replaceAt,
  type Row,
  rowsOf,
  textOfRows,
} from './rows'

const rows = (text: string) => rowsOf(parse(text).tree!)

describe('text and builder are two views of one rule', () => {
  it('text to rows to text gives the same rule, over random rules', () => {
    fc.assert(
      fc.property(condition, (tree) => {
        const text = print(tree)
        expect(print(parse(textOfRows(rows(text))).tree!)).toBe(text)
      }),
      { numRuns: cases(200) },
    )
  })

  it('rows to text to rows likewise', () => {
    fc.assert(
      fc.property(condition, (tree) => {
        const once = rowsOf(tree)
        expect(rows(textOfRows(once))).toEqual(once)
      }),
    )
  })

  it('a comparison is a row of two values, groups keep their brackets', () => {
    const group = rows('close > 5 and (rsi(14) < 30 or not (volume > 1M))')
    expect(group.op).toBe('and')
    expect(group.items[0]).toEqual({ kind: 'row', left: 'close', how: '>', right: '5', upper: '' })
    expect(group.items[1]).toMatchObject({ kind: 'group', op: 'or' })
    expect(textOfRows(group)).toBe('close > 5 and (rsi(14) < 30 or not (volume > 1M))')
  })
})

describe('changing rows', () => {
  const text = 'close > 1 and close > 2 and (close > 3 or close > 4) and close > 5'
  const group = rows(text)
  const last = (g: Group) => textOfRows(g)

  it('replaces, removes and adds at a place', () => {
    const row = itemAt(group, [2, 1]) as Row
    expect(last(replaceAt(group, [2, 1], { ...row, right: '9' }))).toContain('close > 9')
    expect(last(removeAt(group, [0]))).toBe('close > 2 and (close > 3 or close > 4) and close > 5')
    expect(last(insertAt(group, [4], row))).toBe(`${text} and close > 4`)
    // A group that has lost its last row goes too.
    expect(last(removeAt(removeAt(group, [2, 1]), [2, 0]))).toBe('close > 1 and close > 2 and close > 5')
  })

  it.each([
    [[0], [1], 'close > 2 and close > 1 and (close > 3 or close > 4) and close > 5'],
    [[3], [0], 'close > 5 and close > 1 and close > 2 and (close > 3 or close > 4)'],
    [[0], [2, 1], 'close > 2 and (close > 3 or close > 1 or close > 4) and close > 5'],
    [[2, 0], [0], 'close > 3 and close > 1 and close > 2 and close > 4 and close > 5'],
    [[2], [2, 0], text],
  ])('moves %j to %j', (from, to, wanted) => {
    expect(last(moveTo(group, from, to))).toBe(wanted)
  })

  it('moving loses nothing, wherever it goes', () => {
    const places = [[0], [1], [2], [2, 0], [2, 1], [3]]
    fc.assert(
      fc.property(fc.constantFrom(...places), fc.constantFrom(...places), (from, to) => {
        const numbers = (g: Group) => [...last(g).matchAll(/\d/g)].map((m) => m[0]).sort()
        expect(numbers(moveTo(group, from, to))).toEqual(['1', '2', '3', '4', '5'])
      }),
    )
  })
})
