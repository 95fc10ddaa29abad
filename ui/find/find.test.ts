import '@/tests/indexedDb'
import { beforeEach, describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { type Security } from '@/core/market/security'
import { type ScanRow } from '@/core/scan/scan'
import { db, type Universe } from '@/store/db'
import { checkValue } from './builder/useValueCheck'
import { columnsOf } from './columns'
import { chooseUniverse, type Found, useFind } from './findStore'
import { membersOf } from '../market/universe'
import { universeText } from './useUniverse'

const security = (symbol: string, more: Partial<Security> = {}): Security => ({
  symbol,
  name: `${symbol} Works`,
  kind: 'Stock',
  sector: 'Energy',
  venue: 'XBKW',
  country: 'CA',
  currency: 'USD',
  lot: 1,
  increments: [{ from: 0, step: 0.01 }],
  indices: ['Brackwater All-Share'],
  orderable: true,
  ...more,
})

const LISTED = [
  security('ANKAR', {
    venue: 'XSKR',
    currency: 'EUR',
    country: 'FI',
    indices: ['Skerry All-Share', 'Skerry Ten'],
  }),
  security('BECK', { sector: 'Staples' }),
  security('CALMF', { kind: 'Fund', sector: 'Funds', indices: [] }),
  security('RILL', { country: 'IE', indices: ['Brackwater All-Share', 'Brackwater Forty'] }),
  security('TARN'),
]
const RUNS = new Map([['scan-1', ['TARN', 'GONE']]])
const LISTS = [{ id: 'list-1', name: 'Mine', symbols: ['RILL', 'BECK'], changedAt: 0 }]
const members = (universe: Universe) => membersOf(universe, LISTED, RUNS, LISTS)

const simple: fc.Arbitrary<Universe> = fc.constantFrom<Universe>(
  { is: 'everything' },
  { is: 'venue', mic: 'XSKR' },
  { is: 'kind', kind: 'Fund' },
  { is: 'sector', sector: 'Energy' },
  { is: 'country', country: 'CA' },
  { is: 'index', index: 'Brackwater All-Share' },
  { is: 'scan', scanId: 'scan-1' },
  { is: 'list', listId: 'list-1' },
)

describe('universes', () => {
  it.each<[Universe, string[], string]>([
    [{ is: 'everything' }, ['ANKAR', 'BECK', 'CALMF', 'RILL', 'TARN'], 'everything listed'],
    [{ is: 'venue', mic: 'XSKR' }, ['ANKAR'], 'everything on Skerry'],
    [{ is: 'kind', kind: 'Fund' }, ['CALMF'], 'all funds'],
    [{ is: 'sector', sector: 'Staples' }, ['BECK'], 'the sector Staples'],
    [{ is: 'country', country: 'IE' }, ['RILL'], 'companies of Ireland'],
    [{ is: 'index', index: 'Brackwater Forty' }, ['RILL'], 'the members of Brackwater Forty'],
    [{ is: 'scan', scanId: 'scan-1' }, ['TARN', 'GONE'], 'the last result of Morning'],
    [{ is: 'list', listId: 'list-1' }, ['RILL', 'BECK'], 'the list Mine'],
    [{ is: 'list', listId: 'gone' }, [], 'the list that was removed'],
    [{ is: 'scan', scanId: 'gone' }, [], 'the last result of a removed scan'],
  ])('%j has its members, and is told in words', (universe, wanted, words) => {
    expect(members(universe)).toEqual(wanted)
    const scan = { id: 'scan-1', name: 'Morning' } as never
    expect(universeText(universe, { own: [], scans: [scan], lists: LISTS })).toBe(words)
  })

  it('joined, they are the sets that the words say', () => {
    fc.assert(
      fc.property(simple, simple, simple, (a, b, c) => {
        const [x, y] = [new Set(members(a)), new Set(members(b))]
        const joined = (how: 'or' | 'and' | 'without') =>
          new Set(members({ is: 'joined', how, parts: [a, b] }))
        expect(joined('or')).toEqual(new Set([...x, ...y]))
        expect(joined('and')).toEqual(new Set([...x].filter((s) => y.has(s))))
        expect(joined('without')).toEqual(new Set([...x].filter((s) => !y.has(s))))
        // Without both is without either first.
        const twice = members({
          is: 'joined',
          how: 'without',
          parts: [{ is: 'joined', how: 'without', parts: [a, b] }, c],
        })
        const once = members({
          is: 'joined',
          how: 'without',
          parts: [a, { is: 'joined', how: 'or', parts: [b, c] }],
        })
        expect(twice).toEqual(once)
      }),
    )
  })

  it('a list of fifty thousand is joined whole', () => {
    const symbols = Array.from({ length: 50_000 }, (_, i) => `S${i}`)
    const list = { id: 'long', name: 'Long', symbols, changedAt: 0 }
    const universe: Universe = {
      is: 'joined',
      how: 'without',
      parts: [{ is: 'list', listId: 'long' }, { is: 'everything' }],
    }
    expect(membersOf(universe, LISTED, RUNS, [list])).toHaveLength(50_000)
  })
})

const row = (symbol: string, values: number[]): ScanRow => ({
  symbol,
  values,
  close: 12.5,
  change: 1,
  hits: 3,
  asOf: 0,
  zone: 'UTC',
  bar: 0,
  first: 0,
  recent: [],
})
const found = (rows: ScanRow[], measureTexts: string[]): Found => ({
  rows,
  measureTexts,
  rule: 'close > 1',
  frame: '1 day',
  absent: [],
  ...{ looked: rows.length, failed: 0, unknown: [], parts: [], barsTrue: 0, barsKnown: 0, came: 0 },
  ...{ empty: [], holey: [], asOf: 0, zone: 'UTC', stale: [] },
})
const SYMBOLS = new Map(LISTED.map((s) => [s.symbol, s]))
const headers = (rows: ScanRow[], texts: string[], every = { count: 1, unit: 'day' } as const) =>
  columnsOf(found(rows, texts), SYMBOLS, every)
    .filter((column) => !column.optional)
    .map((column) => column.header)

describe('the columns of a result', () => {
  it('carry the currency where all rows are in one, and a column for it where they are not', () => {
    const home = headers([row('TARN', [1]), row('BECK', [2])], ['sma(close, 5)'])
    expect(home).toContain('Close $')
    expect(home).toContain('sma(close, 5) $')
    expect(home).not.toContain('In')
    const both = headers([row('TARN', [1]), row('ANKAR', [2])], ['sma(close, 5)'])
    expect(both).toContain('Close')
    expect(both).toContain('In')
  })

  it('say percent for what is in percent, once, and leave the close to its own column', () => {
    const all = headers([row('TARN', [1, 2])], ['close', 'roc(close, 5)'])
    expect(all.filter((header) => header.startsWith('roc'))).toEqual(['roc(close, 5) %'])
    expect(all.filter((header) => header.startsWith('close') || header.startsWith('Close'))).toEqual([
      'Close $',
    ])
  })

  it('of own data have no company', () =>
    expect(headers([row('MOORS', [])], [])).toEqual(['Symbol', 'Close', 'Day %', 'Lately', 'Hits']))

  it('of minute bars speak of bars, not of days', () =>
    expect(headers([row('TARN', [])], [], { count: 5, unit: 'min' } as never)).toContain('Bar %'))
})

describe('what is being written', () => {
  beforeEach(() => db.settings.clear())

  it('stays when another universe is taken up; the result does not', async () => {
    useFind.setState({ rule: 'rsi(14) < 30', result: found([row('TARN', [])], []), live: true })
    await chooseUniverse({ is: 'index', index: 'Skerry Ten' })
    const { rule, universe, result, live } = useFind.getState()
    expect({ rule, universe, result, live }).toEqual({
      rule: 'rsi(14) < 30',
      universe: { is: 'index', index: 'Skerry Ten' },
      result: undefined,
      live: false,
    })
  })

  it('is kept as a draft, its order too', async () => {
    useFind.setState({ rule: 'rsi(14) < 25', order: { by: 'change', down: true }, draftRead: true })
    await new Promise((resolve) => setTimeout(resolve, 400))
    expect((await db.settings.get('find draft'))?.value).toMatchObject({
      rule: 'rsi(14) < 25',
      order: { by: 'change', down: true },
    })
  })
})

describe('one side of a comparison in the builder', () => {
  const every = { count: 3, unit: 'min' } as const
  const placed = (text: string, condition = false) =>
    checkValue(text, condition, every, {}).issues.map(({ at }) => text.slice(at.from, at.to))

  it('may be a list of values; a mistake in it is marked at its place', () => {
    expect(placed('all of (30, 40, 50)')).toEqual([])
    expect(placed('any of (30, smaa(close, 9))')).toEqual(['smaa(close, 9)'])
  })

  it('is checked on the bars of the scan: half an hour is longer than three minutes', () => {
    expect(placed('on(30 min, close)')).toEqual([])
    expect(placed('on(1 min, close)')).toEqual(['1 min'])
    expect(placed('on(1 day, close > open)', true)).toEqual([])
  })
})
