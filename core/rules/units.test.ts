import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { barsOf } from '@/tests/bars'
import {
  barSource,
  checkMeasure,
  checkRule,
  ColumnMachine,
  compile,
  explain,
  sayIssue,
  verdictOf,
  whyUnknown,
} from '.'
import { type Node } from './tree'
import { Typer } from './typer'
import { nameOfUnit } from './units'

const MINUTE = { count: 1, unit: 'min' } as const
const unit = (text: string): string => {
  const { type, issues } = checkMeasure(text, MINUTE)
  return type?.is === 'number' ? nameOfUnit(type.unit) : sayIssue(issues[0])
}

describe('units are exponents of dimensions', () => {
  it.each([
    ['close * volume', 'money'],
    ['market value / volume', 'price'],
    ['market value / close', 'shares'],
    ['2 * close', 'price'],
    ['close * 5%', 'price'],
    ['close / 50%', 'price'],
    ['close / open', 'number'],
    ['close * close / open', 'price'],
    ['roc(close, 5) * roc(open, 5)', 'percent'],
    ['roc(close, 5) / roc(open, 5)', 'number'],
    ['shares held * average price', 'money'],
    ['unrealised profit / (shares held * average price)', 'number'],
    ['100% * unrealised profit / market value', 'percent'],
    ['optionvolume / volume * volume', 'contracts'],
  ])('%s is a %s', (text, wanted) => expect(unit(text)).toBe(wanted))

  it.each([
    ['close + 5%', 'Cannot add or subtract a price and a percentage. For a share of it write close * 5%.'],
    ['close + volume', 'Cannot add or subtract a price and a number of shares.'],
    ['close * close - close', 'money² for each shares²'],
    ['close + rsi(14)', 'Cannot add or subtract a price and a plain number.'],
    ['close + optionvolume', 'a number of contracts'],
    ['time * 2', 'a time of day'],
  ])('%s is refused', (text, wanted) => expect(unit(text)).toContain(wanted))

  it.each(['close * volume > $1.5M', 'close > 18', 'rsi(14) < 30', 'gap > 2%', 'gap > 2', 'time > 09:45'])(
    '%s may be compared',
    (text) => expect(checkRule(text, MINUTE).issues).toEqual([]),
  )
})

describe('the unit of a tree', () => {
  const leaf = fc.constantFrom(
    'close',
    'volume',
    'market value',
    'roc(close, 3)',
    'rsi(3)',
    'optionvolume',
    '5%',
    '3',
  )
  it('is the same however it is bracketed', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(leaf, fc.constantFrom<'*' | '/'>('*', '/')), { minLength: 2, maxLength: 6 }),
        fc.infiniteStream(fc.nat(5)),
        (factors, choices) => {
          const node = (text: string): Node => checkMeasure(text, MINUTE).tree!
          const typer = new Typer(MINUTE)
          const unitOf = (tree: Node) => {
            const type = typer.typeOf(tree)
            return type?.is === 'number' ? type.unit : undefined
          }
          // Left to right, as it is read.
          const [[first], ...rest] = factors
          const plain = rest.reduce<Node>(
            (left, [text, op]) => ({ kind: 'arith', op, left, right: node(text) }),
            node(first),
          )
          // Any other way: neighbours are joined in any order; a quotient inside a divided part is turned round.
          const parts = factors.map(([text, op], i) => ({ tree: node(text), over: i > 0 && op === '/' }))
          while (parts.length > 1) {
            const at = choices.next().value! % (parts.length - 1)
            const [left, right] = [parts[at], parts[at + 1]]
            const op = left.over === right.over ? '*' : '/'
            parts.splice(at, 2, {
              tree: { kind: 'arith', op, left: left.tree, right: right.tree },
              over: left.over,
            })
          }
          expect(unitOf(parts[0].tree)).toEqual(unitOf(plain))
        },
      ),
    )
  })
})

/** The verdict at the last of some bars of a security of a currency, with one in euros beside it. */
function verdict(text: string, currency: string | undefined) {
  const bars = barsOf([10, 20])
  const other = { ...barSource(barsOf([1, 2])), currency: 'EUR' }
  const source = { ...barSource(bars), currency, beside: () => other }
  const { tree } = checkRule(text)
  const graph = compile([tree!], bars.every)
  const machine = new ColumnMachine(graph)
  machine.run(source)
  return {
    verdict: verdictOf(machine.verdicts[graph.results[0]][1]),
    sentence: explain(tree!, source).sentence,
  }
}

describe('currencies', () => {
  it('an amount in dollars says nothing of a share in euros', () => {
    expect(verdict('close > $18', 'USD').verdict).toBe('holds')
    expect(verdict('close > $18', undefined).verdict).toBe('holds')
    expect(verdict('close > 18', 'EUR').verdict).toBe('holds')
    expect(verdict('close > €18', 'EUR').verdict).toBe('holds')
    expect(verdict('close > $18', 'EUR')).toEqual({
      verdict: 'unknown',
      sentence: 'unknown: close is in EUR, $18 in USD',
    })
    expect(verdict('close between $5 and 30', 'EUR').verdict).toBe('unknown')
    expect(verdict('close + $1 > 3', 'EUR').verdict).toBe('unknown')
  })

  it('a named security is compared with one of its own currency', () => {
    expect(verdict('close > beside("FAR", close)', 'EUR').verdict).toBe('holds')
    expect(verdict('close > beside("FAR", close)', 'USD')).toEqual({
      verdict: 'unknown',
      sentence: 'unknown: close is in USD, beside("FAR", close) in EUR',
    })
    expect(verdict('close / beside("FAR", close) > 1.5', 'USD').verdict).toBe('holds')
    expect(verdict('roc(close, 1) > beside("FAR", roc(close, 1)) - 1', 'USD').verdict).toBe('holds')
  })

  it('named securities that differ are a mistake, at its place', () => {
    const names = { currencyOf: (symbol: string) => (symbol === 'FAR' ? 'EUR' : 'USD') }
    const [issue] = checkRule('beside("NEAR", close) > beside("FAR", close)', undefined, names).issues
    expect(issue).toMatchObject({
      code: 'currency_mismatch',
      left: 'USD',
      right: 'EUR',
      at: { from: 24, to: 44 },
    })
    expect(sayIssue(issue)).toContain('Compare their changes')
    expect(checkRule('beside("FAR", close > $3)', undefined, names).issues).toHaveLength(1)
    expect(checkRule('beside("FAR", close > €3)', undefined, names).issues).toEqual([])
  })
})

describe('a ratio beside a percentage', () => {
  it('means the same', () => {
    // 20 after 10 is a rise of 100 %, however it is written.
    expect(verdict('close / earlier(close, 1 bar) - 1 > 99%', undefined).verdict).toBe('holds')
    expect(verdict('close / earlier(close, 1 bar) - 1 > 101%', undefined).verdict).toBe('fails')
    expect(verdict('100% = close / earlier(close, 1 bar) - 1', undefined).verdict).toBe('holds')
    expect(verdict('roc(close, 1) = close / earlier(close, 1 bar) - 1', undefined).verdict).toBe('holds')
  })
})

describe('why a rule is unknown', () => {
  const why = (text: string, besides = {}) =>
    whyUnknown(explain(checkRule(text).tree!, barSource(barsOf([10, 20]), [], besides)))
  it.each([
    ['close > sma(close, 50)', 'close > sma(close, 50) needs 50 bars, has 2'],
    [
      'earnings growth > 5%',
      'earnings growth is not known here: no report of the company that has it was known by then',
    ],
    [
      'close > level("shelf")',
      'level("shelf") is not known here: no level of that name is drawn on the security',
    ],
    ['bid > 5 and close > 1', 'bid is not known here: there is no quote at this bar'],
    ['uptrades > 2 * downtrades', 'uptrades is not known here: the source of these bars does not count it'],
    [
      'close / (close - close) > 1',
      'close / (close - close) is not known here: it is divided by nought, or one of its values is not known',
    ],
    ['shares held > 0', 'shares held is not known here: the account is not known'],
    [
      'beside("FAR", close) > 1',
      'beside("FAR", close) is not known here: the other security has no bar that has it by then',
    ],
  ])('%s', (text, wanted) => expect(why(text)).toBe(wanted))

  it('nothing where it is known, or one part settles it', () => {
    expect(why('close > 5')).toBeUndefined()
    expect(why('bid > 5 and close > 50')).toBeUndefined()
    expect(why('average price > 5', { holdings: [] })).toBe(
      'average price is not known here: nothing of it was held then, or the account is not known',
    )
  })
})
