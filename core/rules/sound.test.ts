import { cases } from '@/tests/cases'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { barsOf, gappyPrices, prices } from '@/tests/bars'
import { condition } from '@/tests/rules'
import { ENTRIES } from './words'
import { hintsOf, sayHint } from './hints'
import {
  barSource,
  checkMeasure,
  checkRule,
  checkTree,
  compile,
  complete,
  explain,
  ColumnMachine,
  measuresIn,
  type Node,
  parse,
  type Part,
  print,
  type Verdict,
  verdictOf,
} from '.'

const DAILY = { count: 1, unit: 'day' } as const

const verdictsOf = (tree: Node, closes: readonly number[]): Verdict[] => {
  const graph = compile([tree], DAILY)
  const machine = new ColumnMachine(graph)
  machine.run(barSource(barsOf(closes)))
  return Array.from(machine.verdicts[graph.results[0]], verdictOf)
}

/** Comparisons of things that have bounds with plain values, alone and joined: what hints are made of. */
const bounded = fc
  .record({
    of: fc.constantFrom(
      'rsi(5)',
      'stochastic(5, 3, 3).slow',
      'williams(5)',
      'aroon(5).up',
      'volume',
      'close',
    ),
    op: fc.constantFrom('>', '<', '>=', '<=', '='),
    at: fc.constantFrom('-110', '-100', '-50', '0', '30', '50', '70', '100', '120'),
  })
  .map(({ of, op, at }) => `${of} ${op} ${at}`)
const joined = fc
  .tuple(fc.array(bounded, { minLength: 1, maxLength: 3 }), fc.constantFrom(' and ', ' or '))
  .map(([parts, word]) => parts.join(word))

describe('hints are never wrong', () => {
  it('what is said to hold always never fails, what is said to hold never never holds', () => {
    fc.assert(
      fc.property(joined, prices(12, 40), (text, closes) => {
        for (const hint of hintsOf(parse(text).tree!)) {
          expect(sayHint(hint)).toContain(hint.text)
          const verdicts = (part: string) => verdictsOf(parse(part).tree!, closes)
          if (hint.code === 'always') expect(verdicts(hint.text)).not.toContain('fails')
          else if (hint.code === 'never') expect(verdicts(hint.text)).not.toContain('holds')
          else if ('other' in hint) {
            const [one, other] = [verdicts(hint.text), verdicts(hint.other)]
            for (const [i, verdict] of one.entries())
              if (hint.code === 'never together') expect(`${verdict} ${other[i]}`).not.toBe('holds holds')
              else expect(`${verdict} ${other[i]}`).not.toBe('fails fails')
          }
        }
      }),
      { numRuns: cases(125) },
    )
  })

  it('the place of a hint is that of the text that it speaks of', () => {
    fc.assert(
      fc.property(joined, (text) => {
        for (const { at, text: part } of hintsOf(parse(text).tree!))
          expect(print(parse(text.slice(at.from, at.to)).tree!)).toBe(part)
      }),
    )
  })
})

describe('an explanation', () => {
  const all = (part: Part): Part[] => [part, ...part.parts.flatMap(all)]
  const kleene = (parts: readonly Verdict[], or: boolean): Verdict => {
    const settles = or ? 'holds' : 'fails'
    if (parts.includes(settles)) return settles
    return parts.includes('unknown') ? 'unknown' : or ? 'fails' : 'holds'
  }

  it('has a sentence without holes for every part, and parts that give the whole', () => {
    fc.assert(
      fc.property(condition, gappyPrices(20), (tree, closes) => {
        fc.pre(closes.length > 0 && checkTree(tree, DAILY, 'yes/no').type !== undefined)
        const whole = explain(tree, barSource(barsOf(closes)))
        for (const part of all(whole)) {
          expect(part.sentence).not.toMatch(/NaN|undefined|null/)
          expect(part.sentence.length).toBeGreaterThan(3)
          expect(print(parse(part.text).tree!)).toBe(part.text)
        }
        const { kind } = tree
        if (kind === 'logic')
          expect(whole.verdict).toBe(
            kleene(
              whole.parts.map((part) => part.verdict),
              tree.op === 'or',
            ),
          )
      }),
      { numRuns: cases(100) },
    )
  })

  it('tells of the row that is asked for, and knows nothing of those after it', () => {
    fc.assert(
      fc.property(condition, prices(6, 25), fc.nat(), (tree, closes, pick) => {
        fc.pre(checkTree(tree, DAILY, 'yes/no').type !== undefined && !print(tree).includes('week'))
        const row = pick % closes.length
        const then = explain(tree, barSource(barsOf(closes.slice(0, row + 1))))
        const now = explain(tree, barSource(barsOf(closes)), row)
        expect([now.verdict, now.sentence]).toEqual([then.verdict, then.sentence])
      }),
      { numRuns: cases(75) },
    )
  })

  it('its measures are sound, each once', () => {
    fc.assert(
      fc.property(condition, (tree) => {
        fc.pre(checkTree(tree, DAILY, 'yes/no').type !== undefined)
        const texts = measuresIn(tree).map(print)
        expect(new Set(texts).size).toBe(texts.length)
        for (const text of texts) expect([text, checkMeasure(text, DAILY).issues]).toEqual([text, []])
      }),
    )
  })
})

describe('completion', () => {
  it('offers after a comparison every name that begins as typed, each with an explanation', () => {
    // Those about an order are for gates, and not offered of a security.
    for (const { name } of ENTRIES.filter(({ kind }) => kind !== 'order')) {
      const { suggestions, from } = complete(`close > ${name.slice(0, 3)}`, 8 + Math.min(3, name.length))
      const own = suggestions.find((s) => s.label === name)
      expect([name, from, own?.doc.length]).toEqual([name, 8, own?.doc.length])
      expect(own?.doc).toMatch(/\w{3}.*[.)]$/)
    }
  })

  it('what it inserts is taken by the grammar at that place', () => {
    for (const { insert, label } of complete('close > ', 8).suggestions) {
      const text = `close > ${insert}`
      const issues = checkRule(text).issues.filter(
        (issue) => issue.code === 'unknown_name' || issue.code === 'unknown_sign',
      )
      expect([label, issues]).toEqual([label, []])
    }
  })

  it('never throws, wherever the cursor stands', () => {
    fc.assert(
      fc.property(condition, fc.nat(), (tree, at) => {
        const text = print(tree)
        const offset = at % (text.length + 1)
        const { from, suggestions } = complete(text, offset)
        expect(from).toBeLessThanOrEqual(offset)
        for (const { label, insert } of suggestions)
          expect(insert.startsWith(label) || label.startsWith(insert)).toBe(true)
      }),
    )
  })
})
