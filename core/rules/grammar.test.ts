import { describe, expect, it } from '@jest/globals'
import { bare } from '@/tests/rules'
import { type Node, parse } from '.'
import { RuleParser } from './grammar'
import { makeLexer } from './tokens'

const tree = (text: string): Node => {
  const { tree, issues } = parse(text)
  if (!tree) throw new Error(JSON.stringify(issues))
  return tree
}
/** Two texts that mean the same: equal trees, wherever their parts stand. */
const same = (one: string, other: string) => expect(bare(tree(one))).toEqual(bare(tree(other)))

it('neither words nor grammar contradict themselves: no rule is ambiguous, none is out of reach', () => {
  expect(makeLexer({ checked: true }).lexerDefinitionErrors).toEqual([])
  expect(() => new RuleParser({ checked: true })).not.toThrow()
})

describe('binding, tightest first: sign, product, sum, comparison, not, and, or', () => {
  it.each([
    ['close > 1 + 2 * 3', 'close > (1 + (2 * 3))'],
    ['close > 8 - 3 - 2', 'close > ((8 - 3) - 2)'],
    ['close > 8 / 4 / 2', 'close > ((8 / 4) / 2)'],
    ['close > -2 * 3', 'close > ((-2) * 3)'],
    ['not close > 1 and volume > 2', '(not (close > 1)) and (volume > 2)'],
    ['close > 1 or close > 2 and close > 3', '(close > 1) or ((close > 2) and (close > 3))'],
    ['close between 1 and 2 and volume > 3', '(close between 1 and 2) and (volume > 3)'],
    ['close + 1 crosses above open * 2', '(close + 1) crosses above (open * 2)'],
  ])('%s is %s', same)

  it('"and" in a range ends the range, not the rule', () => {
    const { kind, parts } = tree('close between 1 and 2 and open between 3 and 4 and volume > 5') as Extract<
      Node,
      { kind: 'logic' }
    >
    expect([kind, parts.map((p) => p.kind)]).toEqual(['logic', ['between', 'between', 'relate']])
  })
})

describe('words and numbers', () => {
  it.each([
    ['CLOSE > SMA(Close, 20)', 'close > sma(close, 20)'],
    ['close Crosses Above 5', 'close crosses above 5'],
    ['close   >\n\t5', 'close > 5'],
    ['volume > 1.5M', 'volume > 1500000'],
    ['volume > 250k', 'volume > 250000'],
    ['recently(close > 5, 1 bar)', 'recently(close > 5, 1 bars)'],
    ['on(15 minutes, close) > 5', 'on(15 min, close) > 5'],
  ])('%s is %s', same)

  it('keeps the units apart', () => {
    const unit = (text: string) => (tree(`close > ${text}`) as Extract<Node, { kind: 'relate' }>).right
    expect(unit('18')).toMatchObject({ value: 18, unit: 'number' })
    expect(unit('$18')).toMatchObject({ value: 18, unit: 'price' })
    expect(unit('5%')).toMatchObject({ value: 5, unit: 'percent' })
    expect(unit('40 ticks')).toMatchObject({ value: 40, unit: 'ticks' })
    expect(unit('0.1')).toMatchObject({ value: 0.1 })
  })

  it('every part knows where it stands', () => {
    const text = 'close > sma(close, 20)'
    const { left, right } = tree(text) as Extract<Node, { kind: 'relate' }>
    expect([left.at, right.at].map((at) => text.slice(at!.from, at!.to))).toEqual(['close', 'sma(close, 20)'])
  })
})
