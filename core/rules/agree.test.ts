import { cases } from '@/tests/cases'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { barsOf, gappyPrices } from '@/tests/bars'
import { bare, condition, value } from '@/tests/rules'
import { SlowRules } from '@/tests/slowRules'
import { type Bars } from '@/core/market/bars'
import {
  barSource,
  type BarSource,
  checkTree,
  compile,
  explain,
  ColumnMachine,
  parse,
  print,
  verdictOf,
} from '.'
import { NodeSchema } from './tree'

const DAILY = { count: 1, unit: 'day' } as const
const word = (answer: boolean | undefined) => (answer === undefined ? 'unknown' : answer ? 'holds' : 'fails')

describe('text and tree', () => {
  it('print gives text that parses to the same tree, and is stable', () => {
    fc.assert(
      fc.property(fc.oneof(condition, value), (tree) => {
        const text = print(tree)
        const parsed = parse(text)
        expect(parsed.issues).toEqual([])
        expect(bare(parsed.tree!)).toEqual(bare(tree))
        expect(print(parsed.tree!)).toBe(text)
      }),
      { numRuns: cases(200) },
    )
  })

  it('never throws, whatever is typed, and marks a place within the text', () => {
    const pieces = fc.constantFrom(
      'close',
      'sma(',
      ')',
      ',',
      '20',
      ' and ',
      ' > ',
      'not ',
      '%',
      '"',
      '5 bars',
      '.upper',
      '$',
      ' ',
    )
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string(),
          fc.array(pieces).map((p) => p.join('')),
        ),
        (text) => {
          for (const { at } of parse(text).issues) {
            expect(at.from).toBeGreaterThanOrEqual(0)
            expect(at.to).toBeLessThanOrEqual(Math.max(text.length, at.from))
          }
        },
      ),
      { numRuns: cases(250) },
    )
  })

  it('every tree passes the schema that guards trees from files', () => {
    fc.assert(fc.property(condition, (tree) => expect(bare(NodeSchema.parse(tree))).toEqual(bare(tree))))
  })
})

/** Bars of a security with TWIN beside it, which moves the other way and misses some days. */
const twinOf = (closes: readonly number[]): Bars => {
  const twin = barsOf(closes.map((x) => 30 - x))
  const kept = Array.from(closes.keys()).filter((i) => i % 5 !== 3)
  const out = { ...twin }
  for (const name of ['time', 'end', 'open', 'high', 'low', 'close', 'volume'] as const)
    out[name] = Float64Array.from(kept, (i) => twin[name][i])
  return out
}
const withTwin = (closes: readonly number[]): BarSource => {
  const twin = barSource(twinOf(closes))
  return barSource(barsOf(closes), [], {
    beside: (symbol) => (symbol === 'TWIN' ? { ...twin, beside: () => twin } : undefined),
  })
}
const slowly = (closes: readonly number[]) => new SlowRules(barsOf(closes), twinOf(closes))

describe('compiled columns and the plain reading of each word', () => {
  it('agree on every bar, unknown values included', () => {
    fc.assert(
      fc.property(condition, gappyPrices(30), (tree, closes) => {
        fc.pre(checkTree(tree, DAILY, 'yes/no').type !== undefined)
        const graph = compile([tree], DAILY)
        const machine = new ColumnMachine(graph)
        machine.run(withTwin(closes))
        const column = machine.verdicts[graph.results[0]]
        const slow = slowly(closes)
        for (let row = 0; row < closes.length; row++)
          expect(`${row} ${verdictOf(column[row])}`).toBe(`${row} ${word(slow.answer(tree, row))}`)
      }),
      { numRuns: cases(150) },
    )
  })

  it('agree on measures', () => {
    fc.assert(
      fc.property(value, gappyPrices(30), (tree, closes) => {
        fc.pre(checkTree(tree, DAILY, 'number').type !== undefined)
        const graph = compile([tree], DAILY)
        const machine = new ColumnMachine(graph)
        machine.run(withTwin(closes))
        const slow = slowly(closes)
        for (let row = 0; row < closes.length; row++) {
          const wanted = slow.value(tree, row)
          const got = machine.numbers[graph.results[0]][row]
          if (Number.isNaN(wanted)) expect(got).toBeNaN()
          else expect(got).toBeCloseTo(wanted, 6)
        }
      }),
      { numRuns: cases(150) },
    )
  })

  it('an explanation gives the verdict of the column', () => {
    fc.assert(
      fc.property(condition, gappyPrices(20), (tree, closes) => {
        fc.pre(closes.length > 0 && checkTree(tree, DAILY, 'yes/no').type !== undefined)
        expect(explain(tree, withTwin(closes)).verdict).toBe(
          word(slowly(closes).answer(tree, closes.length - 1)),
        )
      }),
    )
  })

  it('one machine run over many securities leaks nothing from one to the next', () => {
    fc.assert(
      fc.property(condition, gappyPrices(25), gappyPrices(25), (tree, first, second) => {
        fc.pre(checkTree(tree, DAILY, 'yes/no').type !== undefined)
        const graph = compile([tree], DAILY)
        const [reused, fresh] = [new ColumnMachine(graph), new ColumnMachine(graph)]
        reused.run(withTwin(first))
        reused.run(withTwin(second))
        fresh.run(withTwin(second))
        const [result] = graph.results
        expect([...reused.verdicts[result]]).toEqual([...fresh.verdicts[result]])
      }),
    )
  })
})
