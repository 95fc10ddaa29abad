import { readFileSync } from 'node:fs'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { barsBefore } from './barsBefore'
import { conflictsOf } from './conflicts'
import { Plan } from './document'
import { eventsOf } from './eventList'
import { findNow, Found, wrongFound } from './found'
import { planIssues } from './check'
import { bound, withInput, withValues, wrongInputs } from './inputs'
import { letGoOfPlaces, placesOf, standsAt, withValuesInPlace } from './places'
import { mostADay, mostText } from './most'
import { barSetOf } from '@/tests/bars'

const example = (id: string): Plan => Plan.parse(JSON.parse(readFileSync(`plans/${id}.json`, 'utf8')))

describe('plans beside each other', () => {
  const long = example('fast-over-slow')
  const both = example('turning-averages')
  const closes = example('high-end')
  const pairs = example('two-of-a-kind')

  it('are in each other’s way where they open opposite sides of one security', () => {
    // One buys GANET, BUOYS, TERNW and others; the other sells them short as well.
    expect(conflictsOf(long, [], both, [])).toEqual(
      ['GANET', 'BUOYS', 'TERNW'].sort((a, b) => order(long, a) - order(long, b)),
    )
    expect(conflictsOf(long, [], example('low-end'), [])).toEqual([])
  })

  it('one that only closes is in nobody’s way; of a pair the second goes the other way', () => {
    expect(conflictsOf(closes, ['GANET', 'OSPRY'], both, [])).toEqual([])
    expect(conflictsOf(long, [], pairs, []).length).toBeGreaterThan(0)
    const first = { ...pairs, sides: [pairs.sides[0]] }
    // Bought: OSPRY, KIPPR, HERRG; sold short: GANET, TERNW, BUOYS.
    expect(new Set(conflictsOf(long, [], first, []))).toEqual(new Set(['GANET', 'TERNW', 'BUOYS']))
  })

  const order = (plan: Plan, symbol: string) =>
    'list' in plan.sides[0].among ? plan.sides[0].among.list.indexOf(symbol) : 0
})

describe('what a plan could do in a day at most', () => {
  it('is what its limits leave', () => {
    expect(mostADay(example('fast-over-slow'))).toEqual({
      entries: 4,
      exposure: 30_000,
      loss: 600,
      securities: 6,
    })
    expect(
      mostADay({ ...example('fast-over-slow'), never: { quoteAge: 1, entriesPerSecurityAndDay: 1 } }),
    ).toEqual({
      ...{ entries: 6, securities: 6 },
    })
    expect(
      mostADay({ ...example('each-morning'), never: { quoteAge: 1, entriesPerSecurityAndDay: 1 } }),
    ).toEqual({})
    expect(mostText(example('high-end'), String)).toEqual([
      'It opens nothing: at most it closes what the account holds.',
    ])
    expect(mostText(example('at-the-shelf'), String)[0]).toBe('At most 1 entry a day.')
  })
})

describe('a list of events', () => {
  it('is read from CSV, its columns in any order; what is wrong is named with its line', () => {
    const text =
      'at;key;symbol;text\n2026-03-16T11:05:00-03:00;a;OSPRY;"one; two"\n\n2026-03-16T12:00:00-03:00;b;GANET;\n'
    expect(eventsOf(text)).toEqual({
      events: [
        { at: '2026-03-16T11:05:00-03:00', key: 'a', symbol: 'OSPRY', text: 'one; two' },
        { at: '2026-03-16T12:00:00-03:00', key: 'b', symbol: 'GANET' },
      ],
    })
    expect(eventsOf('')).toMatchObject({ wrong: expect.stringContaining('key is missing') as unknown })
    expect(eventsOf('key,symbol,at\na,OSPRY,tomorrow')).toEqual({
      wrong: 'Line 2: at is no moment with an offset; write 2026-03-16T11:05:00-03:00.',
    })
    expect(eventsOf('key,symbol,at\na,OSPRY,2026-03-16T11:05:00')).toHaveProperty('wrong')
    expect(eventsOf('key,symbol,at\n"a,OSPRY')).toEqual({ wrong: 'A quote is never closed.' })
  })
})

describe('named values', () => {
  const plan = example('through-the-middle')

  it('stand by their name in rule text, and at numbers of clauses', () => {
    const [side] = bound(plan).sides
    expect(side.if.rule).toBe('rsi(close, 9) crosses above 50')
    const swept = bound(withInput(withInput(plan, 'span', '21'), 'risked', '1.5%')).sides[0]
    expect(swept.if.rule).toBe('rsi(close, 21) crosses above 50')
    expect(swept.then.exits).toMatchObject({ stop: { percent: 1.5 }, target: { percent: 1.7 } })
    expect(() => withInput(plan, 'depth', '1')).toThrow('it has span, middle, risked')
    expect(bound(example('low-end'))).toEqual(example('low-end'))
  })

  it('stand at times and lengths of bars as well, and let go of a place where something else is written', () => {
    const at = ['when.until.clock', 'sides.0.if.every', 'never.entriesPerDay']
    const base = example('fast-over-slow')
    const timed: Plan = {
      ...base,
      when: { ...base.when, until: { clock: '15:10' } },
      never: { ...base.never, entriesPerDay: 2 },
      inputs: [
        { name: 'last_entry', value: '14:20', at: [at[0]] },
        { name: 'length', value: '15 min', at: [at[1]] },
        { name: 'often', value: '3', at: [at[2]] },
      ],
    }
    expect([wrongInputs(timed), planIssues(timed).filter(({ is }) => is === 'error')]).toEqual([[], []])
    const put = bound(timed)
    expect(at.map((path) => standsAt(put, path))).toEqual(['14:20', '15 min', 3])
    const labels = new Map(placesOf(timed).map(({ path, label }) => [path, label]))
    expect(at.map((path) => labels.get(path))).toEqual([
      ...['When: until, clock', 'If: every', 'Never: entries per day'],
    ])
    const wrong = withInput(timed, 'often', '0')
    expect(planIssues(wrong)[0].text).toContain('with the values of its inputs, never.entriesPerDay')
    expect(planIssues(withInput(timed, 'last_entry', '25:10'))[0].text).toContain('25:10 does not fit there')
    // What is seen at a place is what holds there; written over by hand, it is the input's no more.
    const seen = withValuesInPlace(timed)
    expect(at.map((path) => standsAt(seen, path))).toEqual(['14:20', '15 min', 3])
    const byHand = letGoOfPlaces(seen, { ...seen, never: { ...seen.never, entriesPerDay: 5 } })
    expect(byHand.inputs!.map((one) => one.at)).toEqual([[at[0]], [at[1]], undefined])
    expect(byHand.never.entriesPerDay).toBe(5)
    const other = letGoOfPlaces(seen, withInput(seen, 'often', '4'))
    expect([other.never.entriesPerDay, other.inputs![2].at]).toEqual([4, [at[2]]])
    expect(letGoOfPlaces(seen, { ...seen, when: { look: 'Tick' } }).inputs![0].at).toBeUndefined()
  })

  it('words that merely begin like them, and texts in quotes, stay', () => {
    const inputs = [{ name: 'span', value: '9' }]
    expect(withValues('sma(close, span) > spanner and close > level("span")', inputs).text).toBe(
      'sma(close, 9) > spanner and close > level("span")',
    )
  })

  it('a place after them is found again where it was written', () => {
    const text = fc.array(fc.constantFrom('span', 'wide', 'close', '(', '+', '20'), { maxLength: 8 })
    fc.assert(
      fc.property(text, (words) => {
        const written = words.join(' ')
        const inputs = [
          { name: 'span', value: '9' },
          { name: 'wide', value: '100 ticks' },
        ]
        const put = withValues(written, inputs)
        // Signs that were not replaced stand where they stood.
        for (const [at, letter] of [...put.text].entries())
          if (letter === '+' || letter === '(') expect(written[put.back(at)]).toBe(letter)
      }),
    )
  })

  it('what is wrong with them is told', () => {
    const wrong = (inputs: Plan['inputs']) => wrongInputs({ ...plan, inputs })
    expect(wrongInputs(plan)).toEqual([])
    expect(wrong([{ name: 'close', value: '1' }])[0]).toContain('close is a word of rule text')
    expect(wrong([{ name: 'a', value: '1', at: ['sides.0.nowhere'] }])[0]).toContain(
      'where there is no value',
    )
    expect(wrong([{ name: 'a', value: 'x', at: ['never.entriesPerDay'] }])[0]).toContain(
      'x does not fit there',
    )
    expect(
      wrong([
        { name: 'a', value: '1' },
        { name: 'a', value: '2' },
      ]),
    ).toEqual(['there are two inputs called a'])
  })
})

describe('bars that are needed first', () => {
  const of = (rule: string, every: string, securities = 1) => {
    const [side] = example('low-end').sides
    return barsBefore({ ...side, if: { ...side.if, rule, every } }, securities)
  }

  it('are as many as rule text looks back on, over sessions and longer bars too', () => {
    expect(of('close > sma(close, 20)', '5 min')).toBe(400)
    expect(of('close > sma(close, 1000)', '5 min')).toBeGreaterThan(1000)
    // 78 bars of five minutes in a session.
    expect(of('close > on(1 day, sma(close, 20))', '5 min')).toBeGreaterThan(20 * 78)
    expect(of('usualvolume(10) > 2', '5 min')).toBeGreaterThan(10 * 78)
    expect(of('close > prior.high', '1 min')).toBeGreaterThan(2 * 390)
    expect(of('close > on(1 week, sma(close, 30))', '1 day')).toBeGreaterThan(30 * 5)
    expect(of('close > on(1 day, sma(close, 100))', '1 min', 500)).toBeLessThanOrEqual(4000)
  })
})

describe('a search', () => {
  const found = (part: object) => Found.parse({ name: 'some', rule: 'close > 10', every: '1 day', ...part })
  const set = barSetOf({ AAA: [9, 11], BBB: [9, 12], CCC: [9, 12], DDD: [9, 9], EEE: [] })

  it('gives the first by its order, those alike by their symbol, and says whom it left out', () => {
    expect(findNow(found({ by: 'close', first: 2 }), set)).toEqual({
      ...{ symbols: ['BBB', 'CCC'], left: ['AAA'], unknown: 1, looked: 5 },
    })
    expect(findNow(found({ by: 'close', lowest: true }), set).symbols).toEqual(['AAA', 'BBB', 'CCC'])
    expect(findNow(found({}), set).symbols).toEqual(['AAA', 'BBB', 'CCC'])
  })

  it('one that cannot be read is told', () => {
    expect(wrongFound(found({}))).toBeUndefined()
    expect(wrongFound(found({ rule: 'close >' }))).toBeDefined()
    expect(wrongFound(found({ by: 'close > 1' }))).toBeDefined()
    expect(() => findNow(found({ rule: 'close >' }), set)).toThrow(RangeError)
  })
})
