import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { barsOf, prices } from '@/tests/bars'
import { countHits } from '../scan/history'
import { checkRule, parse, print } from '.'
import { fanForm, inOtherForm, sayFanForm } from './fanForms'

const hitsOf = (text: string, closes: readonly number[]): number[] => {
  const set = { symbols: ['A'], bars: [barsOf(closes)] }
  return countHits(set, checkRule(text).tree!, [1]).hits.map((hit) => hit.close)
}

const CROSSES = 'close crosses below all of (12, 11, 10)'

describe('crossing all of several', () => {
  it('by hand: going down in steps crosses no three on one bar, and comes under all once', () => {
    const closes = [13, 11.5, 10.5, 9, 9.5, 12.5, 9, 8]
    expect(hitsOf(CROSSES, closes)).toEqual([9])
    const other = fanForm(parse(CROSSES).tree!)!.other
    expect(other).toBe('begins(close < all of (12, 11, 10))')
    // The first time in steps, the second at once.
    expect(hitsOf(other, closes)).toEqual([9, 9])
  })

  it('every crossing on one bar is such a moment too', () => {
    fc.assert(
      fc.property(prices(2, 60), (closes) => {
        const rule = 'close crosses above all of (9, 12, 16)'
        const [few, many] = [hitsOf(rule, closes), hitsOf(fanForm(parse(rule).tree!)!.other, closes)]
        expect(few.length).toBeLessThanOrEqual(many.length)
      }),
    )
  })

  it('is put into the other form within a longer rule, and back', () => {
    const rule = `volume > 100 and (${CROSSES} or close > 3)`
    const { tree } = parse(rule)
    const there = inOtherForm(tree!, fanForm(tree!)!)
    expect(print(there)).toBe('volume > 100 and (begins(close < all of (12, 11, 10)) or close > 3)')
    expect(print(inOtherForm(there, fanForm(there)!))).toBe(rule)
  })

  it.each([
    'close crosses below any of (12, 11)',
    'close < all of (12, 11)',
    'close crosses below 12',
    'begins(close < 12)',
  ])('%s has no second form', (rule) => expect(fanForm(parse(rule).tree!)).toBeUndefined())

  it('says which is written and what the other is, with both counts', () => {
    const form = fanForm(parse(CROSSES).tree!)!
    expect(sayFanForm(form, 18, 658)).toEqual({
      here: 'This asks for all crossed on one and the same bar, 18 times on these bars.',
      other: 'the moment at which close has come under all of them, 658 times on these bars',
    })
    const back = fanForm(inOtherForm(parse(CROSSES).tree!, form))!
    expect(sayFanForm(back, 1, undefined).here).toBe(
      'This asks for the moment at which close has come under all of them, once on these bars.',
    )
  })
})
