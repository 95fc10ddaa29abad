import { readdirSync, readFileSync } from 'node:fs'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import * as z from 'zod'
import { BRACKWATER, sessionOn } from '../market/venue'
import { planIssues } from './check'
import { differences, differenceText } from './difference'
import { planFileText } from './file'
import { memoryOf, PlanMemory } from './memory'
import { PLAN_FORM, Plan, type Side } from './document'
import { withDrawings } from './drawn'
import { type Open, wayOf } from './entry'
import { originOf, planOrderId, sentFor } from './ids'
import { planProse } from './say'
import { type Pair } from '../scan/pairs'
import { chosenPairs } from './pairScan'
import { Found } from './found'
import { seedBound, seedPlan, type Way, type Wish } from './seed'
import { withOtherSide } from './sides'
import { pricesOf } from './texts'
import { momentOf } from './times'

const side = (part: object = {}): Side =>
  ({
    among: { list: ['OSPRY', 'GANET'] },
    if: { rule: 'sma(close, 9) crosses above sma(close, 21)', every: '5 min' },
    provided: [{ name: 'largest order', rule: 'order value <= 8000' }],
    do: { open: 'Long', price: { at: 'bid', ticks: 2 }, size: { risk: 0.6 }, timeInForce: 'Day' },
    then: { exits: { stop: { percent: 2 }, target: { risk: 2.5 } }, outAt: { beforeClose: 10 } },
    ...part,
  }) as Side
const plan = (part: object = {}): unknown => ({
  ...{ form: PLAN_FORM, formVersion: 1, id: 'nine', name: 'Nine over twenty-one', version: 3 },
  when: { from: { afterOpen: 40 }, until: { clock: '15:10' } },
  sides: [side()],
  never: { entriesPerDay: 2, exposurePerSecurity: 7500, quoteAge: 8 },
  ...part,
})
const issuesOf = (part: object) => planIssues(Plan.parse(plan({ sides: [side(part)] })))

describe('a plan as a document', () => {
  it('reads aloud', () => {
    expect(planProse(Plan.parse(plan())).map(({ clause, text }) => `${clause}: ${text}`)).toEqual([
      'When: from 40 min after the open, at the end of every 5 min bar, until 15:10',
      'Among: OSPRY and GANET',
      'If: sma(close, 9) crosses above sma(close, 21), on 5 min bars',
      'Provided: largest order: order value <= 8000',
      'Do: buy shares risking 0.60 % of equity, where limits leave less at least 20 % of that, limit 2 ticks over the bid, good for the day',
      'Then: leave at a target of 2.50 times the risk or a stop of 2 %, from the fill, held by the broker; all by 10 min before the close',
      'Never: more than 2 entries a day or 7,500 in one security, or on quotes older than 8 seconds',
    ])
  })

  it.each([
    [{ form: 'other' }, 'form'],
    [{ id: 'Two Words' }, 'id'],
    [{ when: { from: { clock: '25:00' } } }, 'when'],
    [{ sides: [] }, 'sides'],
    [{ strange: 1 }, ''],
    [{ sides: [side({ if: { rule: 'close > 1', every: '5 parsecs' } })] }, 'sides'],
  ])('%j is refused at its place', (part, place) => {
    const { error } = Plan.safeParse(plan(part))
    expect(String(error!.issues[0].path[0] ?? '')).toBe(place)
  })

  it('is checked clause by clause, in words', () => {
    expect(planIssues(Plan.parse(plan()))).toEqual([])
    expect(issuesOf({ if: { rule: 'close crosses over 5', every: '5 min' } })[0]).toMatchObject({
      ...{ clause: 'If', side: 0, is: 'error' },
    })
    expect(issuesOf({ if: { rule: 'close', every: '5 min' } })[0].text).toMatch(/yes\/no|yes or no/)
    expect(issuesOf({ if: { rule: 'mate(close) > 5', every: '5 min' } })[0].text).toContain(
      'looks at no pairs',
    )
    expect(issuesOf({ provided: [{ name: 'odd', rule: 'close > 5' }] })[0]).toMatchObject({
      clause: 'Provided',
    })
    expect(issuesOf({ then: { outAt: { clock: '15:50' } } }).map(({ clause, is }) => [clause, is])).toEqual([
      ['Do', 'error'],
      ['Then', 'warning'],
    ])
    const bare = { do: { ...side().do, size: { shares: 1 } }, then: {} }
    expect(issuesOf(bare)[0].text).toContain('no way out at all: what is bought stays')
    const short = { ...bare, do: { ...bare.do, open: 'Short' as const } }
    expect(issuesOf(short)[0].text).toContain('no way out at all: what is sold short stays')
    expect(planIssues(Plan.parse(plan({ never: {} })))[0]).toMatchObject({ clause: 'Never', is: 'warning' })
  })
})

describe('versions', () => {
  const first = Plan.parse(plan())
  it('what one says differently is told clause by clause', () => {
    expect(differences(first, { ...first, version: 9 })).toEqual([])
    const [one] = first.sides
    const changed = {
      ...first,
      name: 'Nine',
      sides: [{ ...one, do: { ...(one.do as Open), size: { shares: 50 } } }],
    }
    expect(differences(first, changed).map(differenceText)).toEqual([
      'Name: “Nine over twenty-one” is now “Nine”',
      'Do: “buy shares risking 0.60 % of equity, where limits leave less at least 20 % of that, limit 2 ticks over the bid, good for the day” is now “buy 50 shares, where limits leave less at least 20 % of that, limit 2 ticks over the bid, good for the day”',
    ])
    const both = differences(first, withOtherSide(first)!).map(differenceText)
    expect(both[0]).toBe('Among, other side: new, “OSPRY and GANET”')
    expect(differences(withOtherSide(first)!, first).map(differenceText)[0]).toContain('gone')
  })

  it('what is drawn is carried as it stands; what was moved is told, what is missing keeps it from being armed', () => {
    const rule = { if: { rule: 'close crosses above level("shelf")', every: '5 min' } }
    const asks = Plan.parse(plan({ sides: [side({ among: { list: ['OSPRY'] }, ...rule })] }))
    expect(planIssues(asks)[0].text).toBe('nothing is drawn under the name “shelf” on OSPRY')
    const level = (name: string, price: number) => ({ id: name, name, kind: 'level' as const, price })
    const [at12, at13] = [12, 13].map((price) =>
      withDrawings(asks, { OSPRY: [level('shelf', price), level('other', 1)], GANET: [level('shelf', 5)] }),
    )
    expect(at12.drawings).toEqual({ OSPRY: [level('shelf', 12)] })
    expect(planIssues(at12)).toEqual([])
    expect(differences(at12, at13).map(differenceText)).toEqual([
      'Drawn: “shelf on OSPRY at 12.00” is now “shelf on OSPRY at 13.00”',
    ])
  })

  it('one begun from a scan is for every security that meets it from now on, or for those of now', () => {
    const seed = { symbols: ['GANET', 'OSPRY', 'GANET'], every: { count: 15, unit: 'min' as const } }
    const rule = 'close > sma(close, 20)'
    const found = Found.parse({ name: 'Found', rule, every: '15 min', soFar: true, again: { minutes: 1 } })
    const wish: Wish = { way: 'up', deed: 'buy', from: 'each', shares: 100, stop: 2 }
    const each = seedPlan({ name: 'Found', rule, found, ...seed }, wish)
    expect(planIssues(each).filter(({ is }) => is === 'error')).toEqual([])
    expect(planProse(each)[1].text).toContain('looked up every 1 minutes, each as soon as it is found')
    const made = seedPlan({ name: 'Found', rule, found, ...seed }, { ...wish, from: 'these' })
    expect(planIssues(made).filter(({ is }) => is === 'error')).toEqual([])
    expect(planProse(made).map(({ text }) => text)).toEqual(
      expect.arrayContaining([
        'at every quote',
        'GANET and OSPRY',
        'more than 1 entry a day in one security or 3 entries a day, or on quotes older than 10 seconds',
      ]),
    )
  })

  it('bars are adjusted as a side says; both sides on bars of one length alike', () => {
    const own = side()
    const dividends = { ...own, if: { ...own.if, prices: 'OverSplitsAndDividends' } } as Side
    expect([pricesOf(own), pricesOf(dividends)]).toEqual(['over-splits', 'over-splits-and-dividends'])
    expect(planProse(Plan.parse(plan({ sides: [dividends] })))[2].text).toContain(
      '5 min bars adjusted for dividends too',
    )
    const short = { ...dividends, do: { ...own.do, open: 'Short' } }
    const said = planIssues(Plan.parse(plan({ sides: [own, short] })))
    expect(said.map(({ side: of, text }) => `${of}: ${text}`)).toContain(
      '1: both sides look at bars of one length: have them adjusted alike',
    )
  })

  it('moments of what is drawn and of company figures are dates and times with an offset in its file', () => {
    const end = (time: unknown, price: number) => ({ time, price })
    const carried = (from: unknown, known: unknown) =>
      plan({
        drawings: {
          OSPRY: [
            { id: 'a', name: 'shelf', kind: 'level', price: 12.4 },
            { id: 'b', name: 'slope', kind: 'line', from: end(from, 12), to: end(1_773_669_900_000, 13) },
          ],
        },
        figures: { OSPRY: [{ known, eps: 1.2 }] },
      })
    const at = '2026-03-10T10:05:00-03:00'
    const read = Plan.parse(carried(at, at))
    // Numbers of older files are taken as they are.
    expect(read).toEqual(Plan.parse(carried(Date.parse(at), Date.parse(at))))
    const text = planFileText(read)
    expect(text).toContain('"known": "2026-03-10T13:05:00.000Z"')
    expect(text).toContain('"time": "2026-03-16T14:05:00.000Z"')
    expect(Plan.parse(JSON.parse(text))).toEqual(read)
    const kept = memoryOf({ plan: read, worldId: 'w', seen: {} })
    expect(PlanMemory.parse(JSON.parse(planFileText(kept)))).toEqual(kept)
    const wrong = Plan.safeParse(carried('2026-03-10', at)).error!.issues.map(({ path }) => path.join('.'))
    expect(wrong).toEqual(['drawings.OSPRY.1.from.time'])
  })

  it('the form is published as it is', () => {
    const published = JSON.parse(readFileSync('docs/plan.schema.json', 'utf8')) as object
    expect(z.toJSONSchema(Plan, { io: 'input' })).toEqual(published)
  })
})

describe('the worked examples', () => {
  const files = readdirSync('plans')
  it.each(files)('%s is a plan with nothing wrong in it, under its own name', (file) => {
    const read = Plan.parse(JSON.parse(readFileSync(`plans/${file}`, 'utf8')))
    expect(planIssues(read)).toEqual([])
    expect(file).toBe(`${read.id}.json`)
    expect(planProse(read).length).toBeGreaterThanOrEqual(7)
  })
})

describe('the other side of a plan', () => {
  it('turns prices, levels and what leaves as well, with names of values in their places', () => {
    const first = side({
      if: { rule: 'rsi(14) crosses above high_end and close > sma(close, span)', every: '5 min' },
      do: { open: 'Long', price: { limit: 'prior.high', ticks: 2, percent: 0.5 }, size: { shares: 5 } },
      then: {
        exits: {
          parts: [
            { stop: { level: 'prior.low - 2 * atr(span)' }, target: { distance: 'high - low' }, share: 50 },
            { stop: { percent: 2 }, target: { level: 'close * 1.03' } },
          ],
        },
        moves: [{ when: 'EveryBar', to: { level: 'lowest(low, span)' } }],
        leaveIf: 'close < sma(close, span)',
        leave: { at: 'bid', ticks: 3, unfilled: { minutes: 2 } },
      },
    })
    const inputs = [
      { name: 'span', value: '20' },
      { name: 'high_end', value: '70' },
    ]
    const read = Plan.parse(plan({ sides: [first], inputs }))
    const [, second] = withOtherSide(read)!.sides
    expect(second.if.rule).toBe('rsi(14) crosses below 30 and close < sma(close, span)')
    expect(second.do).toMatchObject({
      open: 'Short',
      price: { limit: 'prior.low', ticks: -2, percent: -0.5 },
    })
    expect(second.then).toMatchObject({
      exits: {
        parts: [
          { stop: { level: 'prior.high + 2 * atr(span)' }, target: { distance: 'high - low' } },
          { stop: { percent: 2 }, target: { level: 'close * 0.97' } },
        ],
      },
      moves: [{ to: { level: 'highest(high, span)' } }],
      leaveIf: 'close > sma(close, span)',
      leave: { at: 'ask', ticks: -3 },
    })
    const [, back] = withOtherSide({ ...read, sides: [second] })!.sides
    expect(back.then).toEqual(read.sides[0].then)
    expect(back.do).toEqual(read.sides[0].do)
  })

  it('turns the condition over and opens the other way; done to it again it gives the first', () => {
    const both = withOtherSide(Plan.parse(plan()))!
    expect(both.sides.map((one) => [one.if.rule, wayOf(one.do)])).toEqual([
      ['sma(close, 9) crosses above sma(close, 21)', 1],
      ['sma(close, 9) crosses below sma(close, 21)', -1],
    ])
    expect(Plan.safeParse(both).success).toBe(true)
    const back = withOtherSide({ ...both, sides: [both.sides[1]] })!
    expect(back.sides[1].if.rule).toBe(both.sides[0].if.rule)
    expect(Plan.safeParse({ ...both, sides: [both.sides[0], both.sides[0]] }).error!.issues[0].message).toBe(
      'the second side opens the other way',
    )
    const still = { if: { rule: 'volume > 1000', every: '5 min' } }
    expect(withOtherSide(Plan.parse(plan({ sides: [side(still)] })))).toBeUndefined()
    expect(planProse({ ...both, opposite: 'Turn' }).at(-2)!.text).toContain('close, and open the other way')
  })
})

describe('a plan from a column', () => {
  it('is its measure through a bound, written in its unit and named in one place', () => {
    const every = { count: 1, unit: 'day' } as const
    const bound = (measure: string, value: number) => seedBound(measure, value, { symbols: ['OSPRY'], every })
    const seed = bound('rsi(14)', 41.23456)!
    expect([(seed.rule as Record<Way, string>).down, seed.inputs]).toEqual([
      'rsi(14) crosses below bound',
      [{ name: 'bound', value: '41.23' }],
    ])
    const read = seedPlan(seed, { way: 'up', deed: 'tell', from: 'these' })
    expect(planIssues(read).filter(({ is }) => is === 'error')).toEqual([])
    expect([read.when.look, read.never.entriesInAll, read.sides[0].if.bars]).toEqual(['Tick', 1, 'SoFar'])
    expect([read.sides[0].do, planIssues(read)]).toEqual([{ tell: true }, []])
    // A bound of the price is passed from price to price, whatever the bars.
    expect(bound('close', 12.345)?.rule).toMatchObject({ up: 'passesup(bound)' })
    expect(bound('roc(close, 5)', -1.5)?.inputs![0].value).toBe('-1.5%')
    expect(bound('close', 12.345)?.inputs![0].value).toBe('12.35')
    expect(bound('close', NaN)).toBeUndefined()
    expect(bound('close > 5', 1)).toBeUndefined()
  })
})

describe('pairs from a search', () => {
  const pair = (one: string, other: string, correlation: number, ratio = 1): Pair => ({
    ...{ one, other, correlation, ratio, halflife: 5, zscore: 1, bars: 60 },
  })

  it('are the closest, each security in one of them, those alike by their symbols', () => {
    const found = [
      pair('A', 'B', 0.8),
      pair('B', 'C', 0.9),
      pair('A', 'C', 0.85),
      pair('D', 'E', 0.7),
      pair('A', 'D', 0.8),
      pair('F', 'G', 0.99, NaN),
    ]
    expect(chosenPairs(found, 5)).toEqual([
      ['B', 'C'],
      ['A', 'D'],
    ])
    expect(chosenPairs(found.toReversed(), 1)).toEqual([['B', 'C']])
    expect(chosenPairs([], 3)).toEqual([])
  })

  it('say how they were found, and as of when', () => {
    const scan = { in: { index: 'BWALL' }, every: '1 day', length: 60, least: 0.7, first: 10 }
    const at = '2026-03-16T10:42:00-03:00'
    const among = (more: object) => ({ among: { pairs: [['OSPRY', 'GANET']], scan: { ...scan, ...more } } })
    const text = (more: object) => planProse(Plan.parse(plan({ sides: [side(among(more))] })))[1].text
    expect(text({})).toBe('the pairs OSPRY and GANET')
    expect(text({ at })).toBe(
      'the pairs OSPRY and GANET: the 10 closest of the members of BWALL, correlated at least 0.7 over 60 bars of 1 day, as of 2026-03-16 10:42',
    )
  })
})

describe('times of a session', () => {
  it('are those of the venue, on a short day and over a change of the clocks', () => {
    const at = (date: string, time: Parameters<typeof momentOf>[0]) =>
      new Date(momentOf(time, sessionOn(BRACKWATER, date)!, BRACKWATER.zone)).toISOString()
    // America/Halifax is four hours behind UTC in winter, three in summer (IANA time zone database).
    expect(at('2026-03-06', { clock: '15:10' })).toBe('2026-03-06T19:10:00.000Z')
    expect(at('2026-03-09', { clock: '15:10' })).toBe('2026-03-09T18:10:00.000Z')
    expect(at('2026-03-16', { afterOpen: 40 })).toBe('2026-03-16T13:10:00.000Z')
    expect(at('2026-12-24', { beforeClose: 10 })).toBe('2026-12-24T16:50:00.000Z')
  })
})

describe('ids of a plan’s orders', () => {
  const parts = {
    planId: 'nine',
    symbol: 'OSPRY',
    date: '2026-03-16',
    signal: 's 1',
    leg: 0,
    role: 'entry' as const,
  }

  // Worked out apart: printf '["nine","OSPRY","2026-03-16","s 1",0,"entry"]' | openssl dgst -sha256 -binary | base32
  it('are 26 letters of the digest in base 32 (RFC 4648)', () => {
    expect(planOrderId(parts)).toBe('p.jao4jt5v2fgrnbegs7ogmpgs3k')
  })

  it('are the same for the same parts, and for no others', () => {
    const text = fc.string({ minLength: 1, maxLength: 12 })
    const any = fc.record({
      ...{ planId: text, symbol: text, date: text, signal: text, leg: fc.nat({ max: 3 }) },
      role: fc.constantFrom('entry' as const, 'out' as const),
    })
    fc.assert(
      fc.property(any, any, (one, other) => {
        expect(planOrderId({ ...one })).toBe(planOrderId(one))
        expect(planOrderId(one)).toMatch(/^p\.[a-z2-7]{26}$/)
        expect(planOrderId(one) === planOrderId(other)).toBe(JSON.stringify(one) === JSON.stringify(other))
      }),
    )
  })

  it('and an order says which plan it is of', () => {
    const origin = originOf({ id: 'nine', name: 'Nine', version: 2 }, 'out', 'at its time')
    expect(sentFor(origin)).toEqual({ planId: 'nine', role: 'out', signal: 'at its time' })
    expect(sentFor({ from: 'Script', signal: 'nine out x' })).toBeUndefined()
    expect(sentFor(undefined)).toBeUndefined()
  })
})
