import '@/tests/indexedDb'
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from '@jest/globals'
import { encodeBars } from '@/core/formats/barsBinary'
import { sliceBars } from '@/core/market/bars'
import { dateIn } from '@/core/market/moments'
import { type Security } from '@/core/market/security'
import { keepOwnData } from '@/store/own'
import { db } from '@/store/db'
import { barsOf } from '@/tests/bars'
import { answered, inThisThread } from '@/tests/sameThread'
import { type Broker } from '@/client'
import { parse } from '@/core/rules'
import { ScanPool } from '@/workers/scanPool'
import { AboutSecurities, Holdings } from './about'
import { MarketBars } from './bars'
import { type Market, type Source } from './market'
import { Reports } from './reports'
import { Scans } from './scans'

beforeAll(async () => {
  inThisThread()
  await import('@/workers/scan.worker')
})
afterAll(answered)

const CLOSES: Record<string, number[]> = {
  INDEX: [10, 11, 12, 11, 13, 14],
  BECK: [5, 5, 5, 5, 5, 6],
  RILL: [9, 8, 7, 6, 5, 4],
  TARN: [1, 2, 3, 4, 5, 6],
}

/** Date of the fourth bar. */
const FOURTH = dateIn(barsOf(CLOSES.TARN).time[3], 'UTC')

const security = (symbol: string): Security => ({
  ...{ symbol, name: symbol, sector: 'Energy', venue: 'XBKW', country: 'CA', currency: 'USD', lot: 1 },
  kind: symbol === 'INDEX' ? 'Index' : 'Stock',
  increments: [{ from: 0, step: 0.01 }],
  indices: [],
  orderable: true,
})

let asked: string[] = []
const broker = {
  bars: (
    _: string,
    ask: { symbols?: string[]; soFar?: boolean; extras?: readonly string[]; from?: string },
  ) => {
    asked.push(`bars ${ask.extras?.join() ?? ''}`)
    const symbols = ask.symbols ?? Object.keys(CLOSES)
    const from = ask.from ? Date.parse(ask.from) : -Infinity
    const bars = symbols.map((symbol) => {
      const all = barsOf(CLOSES[symbol])
      return sliceBars(
        all,
        Math.max(
          0,
          all.time.findIndex((t) => t >= from),
        ),
        all.time.length,
      )
    })
    return Promise.resolve(encodeBars({ symbols, bars }, '').buffer)
  },
  quotes: () => {
    asked.push('quotes')
    return Promise.resolve(Object.keys(CLOSES).map((symbol) => ({ symbol, last: 7, bid: 6.9, ask: 7.1 })))
  },
  reports: () => {
    asked.push('reports')
    return Promise.resolve({ TARN: [{ known: 0, eps: 2 }], BECK: [{ known: 0, eps: 1 }] })
  },
} as unknown as Broker

const market: Market = {
  securities: Object.keys(CLOSES).map(security),
  indices: { XBKW: 'INDEX' },
}
const tree = (text: string) => parse(text).tree!
/** The services as a page that was just opened has them. */
const opened = () => {
  const holdings = new Holdings(broker, new Reports(broker))
  // One hand: in this thread several would be one and the same worker.
  return new Scans(new MarketBars(broker), new ScanPool(1), new AboutSecurities(broker, holdings))
}
let scans: Scans
let moment = 0
const daily = (): Source => ({ is: 'market', frame: '1 day', version: `2026-03-16 Open ${moment++}` })
const scan = (rule: string, among?: string[], measures: string[] = []) =>
  scans.run(market, daily(), { rule: tree(rule), measures: measures.map(tree), among }, () => undefined)
const symbolsOf = (found: Awaited<ReturnType<typeof scan>>) => found.rows.map((row) => row.symbol)

beforeEach(async () => {
  asked = []
  scans = opened()
  await Promise.all(db.tables.map((table) => table.clear()))
})

describe('a scan in the page', () => {
  it('gives rows in the order of the universe, and names members that have no bars', async () => {
    expect(symbolsOf(await scan('close > 5', ['TARN', 'BECK', 'RILL']))).toEqual(['TARN', 'BECK'])
    const found = await scan('close > 5', ['GONE', 'BECK', 'TARN'])
    expect(symbolsOf(found)).toEqual(['BECK', 'TARN'])
    expect(found.absent).toEqual(['GONE'])
    expect(found.looked).toBe(2)
  })

  it('of nobody finds nobody', async () => {
    const found = await scan('close > 5', [])
    expect([found.rows, found.looked, found.absent]).toEqual([[], 0, []])
  })

  it('knows the index of each security’s venue', async () => {
    const found = await scan('close - beside("index", close) < -9', ['BECK', 'RILL', 'TARN'])
    expect(symbolsOf(found)).toEqual(['RILL'])
  })

  it('asks for company figures and quotes only where the rule looks at them', async () => {
    await scan('close > 1')
    expect(asked).not.toContain('reports')
    expect(symbolsOf(await scan('earnings per share > 1.5'))).toEqual(['TARN'])
    expect(asked).toContain('reports')
    expect(asked).not.toContain('quotes')
    // Quotes are of now: they stand on the last bar.
    expect(symbolsOf(await scan('last > close', ['BECK', 'RILL', 'TARN']))).toEqual(['BECK', 'RILL', 'TARN'])
    expect(asked).toContain('quotes')
  })

  it('figures that the trader brought take the place of the market’s', async () => {
    await db.ownReports.put({ symbol: 'BECK', reports: [{ known: 0, eps: 9 }] })
    expect(symbolsOf(await scan('earnings per share > 5 and close > 0'))).toEqual(['BECK'])
  })

  it('levels drawn by hand are those of each security', async () => {
    await db.layouts.put({
      symbol: 'TARN',
      drawings: [{ id: 'a', kind: 'level', name: 'shelf', price: 5.5 }],
      ...{ panels: [], frames: [], changedAt: 1 },
    })
    const found = await scan('close > level("shelf")')
    expect(symbolsOf(found)).toEqual(['TARN'])
    // Those without that level are unknown, not failed.
    expect(found.unknown).toContain('BECK')
  })

  it('looks at the trader’s own bars by themselves, in their own zone', async () => {
    const data = await keepOwnData('mine', '1 day', [{ symbol: 'MOORS', bars: barsOf([3, 4]) }])
    const source: Source = { is: 'own', dataId: data.id, version: 'x' }
    const found = await scans.run(market, source, { rule: tree('close > 1'), measures: [] }, () => undefined)
    expect([symbolsOf(found), found.zone]).toEqual([['MOORS'], 'UTC'])
    expect(asked).toEqual([])
  })

  it('can be given up while it runs', async () => {
    const stop = new AbortController()
    stop.abort()
    const job = scans.run(
      market,
      daily(),
      { rule: tree('close > 1'), measures: [] },
      () => undefined,
      stop.signal,
    )
    await expect(job).rejects.toMatchObject({ name: 'AbortError' })
  })
})

describe('a market of several chunks', () => {
  const names = Array.from({ length: 250 }, (_, k) => `S${String(k).padStart(3, '0')}`)
  const large: Market = { securities: names.map(security), indices: {} }
  const ask = { rule: tree('close > 5'), measures: [tree('close')] }
  const closesOf = (symbol: string) => [1, 2, 3, 4, 5, 5 + (Number(symbol.slice(1)) % 2)]
  beforeEach(() => {
    for (const name of names) CLOSES[name] = closesOf(name)
  })
  afterEach(() => {
    for (const name of names) delete CLOSES[name]
  })

  it('rows come while bars do, and all of them are those of a scan of the whole', async () => {
    const told: number[] = []
    const found = await scans.run(large, daily(), ask, (soFar) => told.push(soFar().looked))
    expect([told[0], told.at(-1)]).toEqual([100, 250])
    expect(told).toEqual([...told].sort((a, b) => a - b))
    const again = await scans.run(large, daily(), ask, () => undefined)
    expect(again.rows).toEqual(found.rows)
    expect([found.looked, found.rows.length, found.failed]).toEqual([250, 125, 125])
    expect(found.rows.map((row) => row.symbol)).toEqual(names.filter((_, k) => k % 2 === 1))
  })

  it('several that ask at once, one of which gives up, do not take the bars from under each other', async () => {
    const nothing = () => undefined
    for (const source of [daily(), daily()]) {
      const stop = new AbortController()
      const given = scans.run(large, source, ask, () => stop.abort(), stop.signal).catch((e: Error) => e.name)
      const [whole, lean, later] = await Promise.all([
        scans.run(large, source, ask, nothing),
        scans.breadth(large, source),
        scans.run(large, daily(), ask, nothing),
      ])
      expect([whole.rows.length, whole.looked, later.rows.length]).toEqual([125, 250, 125])
      expect([...lean.counted]).toEqual([250, 250, 250, 250, 250, 250])
      expect(await given).toBe('AbortError')
    }
  })

  it('one that asks for another security waits until all are there', async () => {
    const told: number[] = []
    const rule = tree('close > beside("S248", close)')
    const found = await scans.run(large, daily(), { rule, measures: [] }, (soFar) =>
      told.push(soFar().looked),
    )
    expect(found.rows).toHaveLength(125)
    expect(found.unknown).toEqual([])
  })
})

describe('what stands beside a scan', () => {
  it('why one meets the rule, as of a day too; nothing of one that is not there', async () => {
    const why = await scans.explain(market, daily(), { rule: tree('close > 5'), symbol: 'TARN' })
    expect([why?.verdict, why?.sentence]).toEqual(['holds', 'close 6.00 is above 5'])
    const then = await scans.explain(
      market,
      { ...daily(), asOf: FOURTH },
      { rule: tree('close > 5'), symbol: 'TARN' },
    )
    expect([then?.verdict, then?.sentence]).toEqual(['fails', 'close 4.00 is not above 5'])
    expect(await scans.explain(market, daily(), { rule: tree('close > 5'), symbol: 'GONE' })).toBeUndefined()
  })

  it('how all moved together', async () => {
    const { advancing, declining } = await scans.breadth(market, daily(), ['BECK', 'RILL', 'TARN'])
    expect([advancing.at(-1), declining.at(-1)]).toEqual([2, 1])
  })

  it('every time that the rule came true', async () => {
    const counts = await scans.history(
      market,
      daily(),
      { rule: tree('close > 3'), ahead: [1], among: ['TARN'] },
      () => undefined,
    )
    expect(counts?.hits.map((hit) => [hit.symbol, hit.close, hit.changes[0]])).toEqual([['TARN', 4, 25]])
  })

  it('as of a past day, hits and pairs know nothing of what came after', async () => {
    const ask = { rule: tree('close > 3'), ahead: [1], among: ['TARN'] }
    const counts = await scans.history(market, { ...daily(), asOf: FOURTH }, ask, () => undefined)
    // TARN is at 4 on that day: what follows has not come yet.
    expect(counts?.hits.map((hit) => [hit.symbol, hit.changes[0]])).toEqual([['TARN', NaN]])
    const pairs = { length: 5, least: 0, among: ['RILL', 'TARN', 'INDEX'] }
    expect(await scans.pairs(market, { ...daily(), asOf: FOURTH }, pairs, () => undefined)).toEqual([])
    expect((await scans.pairs(market, daily(), pairs, () => undefined)).length).toBeGreaterThan(0)
  })

  it('pairs of the universe, and none of one alone', async () => {
    const ask = { length: 5, least: 0 }
    const some = await scans.pairs(
      market,
      daily(),
      { ...ask, among: ['RILL', 'TARN', 'INDEX'] },
      () => undefined,
    )
    for (const pair of some) expect(Math.abs(pair.correlation)).toBeLessThanOrEqual(1)
    expect(await scans.pairs(market, daily(), { ...ask, among: ['TARN'] }, () => undefined)).toEqual([])
  })
})
