import '@/tests/indexedDb'
import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals'
import { encodeBars } from '@/core/formats/barsBinary'
import { type BarSet } from '@/core/market/barTable'
import { type Bars, sliceBars } from '@/core/market/bars'
import { chunksOf, keptFrames } from '@/store/barStore'
import { db } from '@/store/db'
import { barsOf } from '@/tests/bars'
import { type Broker, BrokerProblem, unreachable } from '@/client'
import { type Frame, frameName } from '../market/frames'
import { CHUNK } from './barChunks'
import { MarketBars, setIn } from './bars'
import { useUpdates } from './updates'

const DAILY: Frame = { every: '1 day', soFar: false, extras: [] }
const NAME = frameName(DAILY)

/** A market of some securities whose days come one after the other, and what it was asked for. */
class Market {
  asked: { symbols?: string[]; from?: string; soFar?: boolean; limit?: number }[] = []
  days: number
  /** Set to refuse or stop what is asked, by its number. */
  before: (ask: number) => void = () => undefined
  closes: Record<string, number[]>

  constructor(symbols: readonly string[], days: number) {
    this.days = days
    this.closes = Object.fromEntries(
      symbols.map((symbol, k) => [symbol, Array.from({ length: 40 }, (_, i) => 10 + k + i / 4)]),
    )
  }

  get symbols(): string[] {
    return Object.keys(this.closes)
  }

  /** Bars up to today; the growing one is open at its end. */
  private bars(symbol: string, soFar: boolean): Bars {
    const all = barsOf(this.closes[symbol].slice(0, this.days + (soFar ? 1 : 0)))
    if (soFar) all.end[this.days] = Infinity
    return all
  }

  readonly broker = {
    bars: (_every: string, ask: Market['asked'][number]) => {
      this.asked.push(ask)
      return Promise.resolve().then(() => {
        this.before(this.asked.length)
        const symbols = ask.symbols ?? this.symbols
        const from = ask.from ? Date.parse(ask.from) : -Infinity
        const bars = symbols.map((symbol) => {
          const all = this.bars(symbol, ask.soFar ?? false)
          const begin = Math.max(
            all.time.findIndex((t) => t >= from),
            all.time.length - (ask.limit ?? 1_000),
          )
          return sliceBars(all, Math.max(0, begin), all.time.length)
        })
        const set: BarSet = { symbols, bars }
        return encodeBars(set, '2025-03-01T16:00:00Z').buffer as ArrayBuffer
      })
    },
  } as unknown as Broker
}

let version = 0
const pages = new Map<Broker, MarketBars>()
const pageOf = (market: Market): MarketBars => {
  const page = pages.get(market.broker) ?? new MarketBars(market.broker)
  pages.set(market.broker, page)
  return page
}
const bring = (market: Market, frame = DAILY, signal?: AbortSignal) =>
  pageOf(market).upToDate({ frame, symbols: market.symbols, version: `v${version++}`, signal })
const closesOf = async (table: ReturnType<typeof bring>, symbol: string): Promise<number[]> => {
  const set = setIn(await table)
  return [...set.bars[set.symbols.indexOf(symbol)].close]
}
const update = () => useUpdates.getState().updates[NAME]

beforeEach(async () => {
  useUpdates.setState({ updates: {} })
  await db.barChunks.clear()
})
afterEach(() => void jest.restoreAllMocks())

describe('an update', () => {
  it('fetches everything once, then only what came since', async () => {
    const market = new Market(['TARN', 'BECK'], 20)
    expect(await closesOf(bring(market), 'BECK')).toEqual(market.closes.BECK.slice(0, 20))
    expect(update()).toMatchObject({ state: 'done', fetched: 40 })
    market.days = 23
    expect(await closesOf(bring(market), 'BECK')).toEqual(market.closes.BECK.slice(0, 23))
    expect(update()).toMatchObject({ state: 'done', fetched: 6 })
    // From the last bar that was there on.
    expect(market.asked[1].from).toBe('2025-01-25T00:00:00.000Z')
    await bring(market)
    expect(update()).toMatchObject({ fetched: 0 })
  })

  it('asked twice at once, or again in the same moment, it runs once', async () => {
    const market = new Market(['TARN'], 5)
    const ask = { frame: DAILY, symbols: market.symbols, version: 'same' }
    const page = pageOf(market)
    const [one, two] = await Promise.all([page.upToDate(ask), page.upToDate(ask)])
    expect(two).toBe(one)
    expect(await page.upToDate(ask)).toBe(one)
    expect(market.asked).toHaveLength(1)
  })

  it('prices that were changed since, as by a split, come anew from the first bar', async () => {
    const market = new Market(['TARN', 'BECK'], 20)
    await bring(market)
    market.days = 21
    market.closes.TARN = market.closes.TARN.map((x) => x / 2)
    expect(await closesOf(bring(market), 'TARN')).toEqual(market.closes.TARN.slice(0, 21))
  })

  it('a security that is listed anew is fetched with the others', async () => {
    const market = new Market(['TARN'], 10)
    await bring(market)
    market.closes.RILL = market.closes.TARN.map((x) => x * 3)
    expect(await closesOf(bring(market), 'RILL')).toEqual(market.closes.RILL.slice(0, 10))
  })

  it('keeps the end of the last bar of every security', async () => {
    await bring(new Market(['TARN', 'BECK'], 3))
    const [frame] = await keptFrames()
    expect(frame.last).toEqual([
      { symbol: 'TARN', end: Date.UTC(2025, 0, 9) },
      { symbol: 'BECK', end: Date.UTC(2025, 0, 9) },
    ])
  })
})

describe('an update that is broken off', () => {
  const many = () =>
    new Market(
      Array.from({ length: 600 }, (_, k) => `S${k}`),
      6,
    )

  it('keeps what has come, and the next goes on from there', async () => {
    const market = many()
    const stop = new AbortController()
    market.before = (ask) => {
      if (ask === 2) stop.abort()
    }
    await expect(bring(market, DAILY, stop.signal)).rejects.toThrow('stopped')
    expect(update()).toMatchObject({ state: 'stopped' })
    const kept = (await chunksOf(NAME)).flatMap((chunk) => chunk.symbols)
    expect(kept.length).toBeGreaterThanOrEqual(CHUNK)
    expect(kept.length).toBeLessThan(600)
    market.before = () => undefined
    market.asked = []
    expect(setIn(await bring(market)).symbols).toHaveLength(600)
    // What was kept is asked for from its last bar only, the rest whole.
    expect(market.asked.map((ask) => ask.from !== undefined)).toEqual([
      ...Array<boolean>(Math.ceil(kept.length / CHUNK)).fill(true),
      ...Array<boolean>(6 - Math.ceil(kept.length / CHUNK)).fill(false),
    ])
  })

  it('by a market that does not answer, the bars that are kept stand, and it is said', async () => {
    const market = many()
    market.before = (ask) => {
      if (ask > 1) throw unreachable()
    }
    const table = setIn(await bring(market))
    expect(table.symbols).toHaveLength(CHUNK)
    expect(update()).toMatchObject({ state: 'failed' })
    expect(update()?.problem).toContain('does not answer')
    // The next scan of the same moment asks again.
    market.before = () => undefined
    expect(setIn(await bring(market)).symbols).toHaveLength(600)
    expect(update()).toMatchObject({ state: 'done' })
  })

  it('no security is there twice where the listing has changed since', async () => {
    const market = many()
    await bring(market)
    // One that is listed first moves all others on by one place.
    market.closes = { FIRST: market.closes.S0, ...market.closes }
    const { length } = market.asked
    market.before = (ask) => {
      if (ask > length + 1) throw unreachable()
    }
    const { symbols } = setIn(await bring(market))
    expect(new Set(symbols).size).toBe(symbols.length)
    expect(symbols.slice(0, 2)).toEqual(['FIRST', 'S0'])
    expect(symbols.length).toBeGreaterThan(590)
  })

  it('where nothing is kept, that is the message; any other refusal is told as it is', async () => {
    const market = new Market(['TARN'], 4)
    market.before = () => {
      throw unreachable()
    }
    await expect(bring(market)).rejects.toThrow('no bars of 1 day are kept here yet')
    market.before = () => {
      throw new BrokerProblem('forbidden', 'Forbidden', 'The key lacks see-market.', 'Make another.', 403)
    }
    await expect(bring(market)).rejects.toThrow('The key lacks see-market.')
  })
})

describe('on the same day, where the market has nothing new', () => {
  it('nothing is asked in the same sessions, in later ones the last bar of the index, on the next day everything', async () => {
    const market = new Market(['INDEX', 'TARN', 'BECK'], 20)
    const page = (version: string) =>
      new MarketBars(market.broker).upToDate({
        frame: DAILY,
        symbols: market.symbols,
        version,
        indexOf: () => 'INDEX',
      })
    const asked = async (version: string) => {
      market.asked = []
      expect(await closesOf(page(version), 'BECK')).toEqual(market.closes.BECK.slice(0, 20))
      return market.asked.map(({ symbols, limit }) => [symbols, limit])
    }
    await page('2025-01-20 A:Open,B:Open')
    expect(await asked('2025-01-20 A:Open,B:Open')).toEqual([])
    // Another look while a scan is left running is of the same sessions.
    expect(await asked('2025-01-20 A:Open,B:Open  ~7')).toEqual([])
    expect(await asked('2025-01-20 A:Open,B:Closed')).toEqual([[['INDEX'], 1]])
    expect(await asked('2025-01-20 A:Open,B:Closed')).toEqual([])
    expect(await asked('2025-01-21 A:PreOpen,B:PreOpen')).toEqual([
      [['INDEX'], 1],
      [['INDEX', 'TARN', 'BECK'], 2000],
    ])
  })
})

describe('what storage does', () => {
  it('full: the bars are held while the page is open, and it is said', async () => {
    const market = new Market(['TARN'], 8)
    const full = Object.assign(new Error('full'), { name: 'QuotaExceededError' })
    jest.spyOn(db.barChunks, 'put').mockImplementation((() => Promise.reject(full)) as never)
    expect(await closesOf(bring(market), 'TARN')).toHaveLength(8)
    expect(update()?.problem).toContain('no room')
  })

  it.each([
    ['cut off', (bytes: Uint8Array) => bytes.slice(0, 60)],
    ['overwritten', (bytes: Uint8Array) => bytes.map((b, i) => (i < 40 ? 255 : b))],
    ['empty', () => new Uint8Array(0)],
  ])('damaged bars (%s) come anew', async (_, damage) => {
    const market = new Market(['TARN'], 8)
    await bring(market)
    const [chunk] = await chunksOf(NAME)
    await db.barChunks.put({ ...chunk, buffer: damage(new Uint8Array(chunk.buffer)).buffer })
    expect(await closesOf(bring(market), 'TARN')).toEqual(market.closes.TARN.slice(0, 8))
    expect(market.asked.at(-1)?.from).toBeUndefined()
  })
})

describe('the growing bar', () => {
  const frame: Frame = { ...DAILY, soFar: true }

  it('stands after the complete ones, and moves in place', async () => {
    const market = new Market(['TARN', 'BECK'], 10)
    const first = await bring(market, frame)
    expect(await closesOf(Promise.resolve(first), 'TARN')).toEqual(market.closes.TARN.slice(0, 11))
    market.closes.TARN[10] = 99
    const second = await bring(market, frame)
    const set = setIn(second)
    expect(set.bars[0].close.at(-1)).toBe(99)
    expect(set.bars[0].end.at(-1)).toBe(Infinity)
    market.days = 11
    expect(await closesOf(bring(market, frame), 'TARN')).toEqual(market.closes.TARN.slice(0, 12))
  })

  it('is not written while anyone reads: it waits until they are done', async () => {
    const market = new Market(['TARN', 'BECK'], 10)
    const first = await bring(market, frame)
    const seen: number[] = []
    let done: () => void = () => undefined
    const reading = pageOf(market).holding([first], async () => {
      seen.push(setIn(first).bars[0].close.at(-1)!)
      await new Promise<void>((go) => (done = go))
      seen.push(setIn(first).bars[0].close.at(-1)!)
    })
    market.closes.TARN[10] = 99
    const next = bring(market, frame)
    await new Promise((go) => setTimeout(go, 20))
    done()
    await reading
    expect(seen).toEqual([12.5, 12.5])
    expect(await closesOf(next, 'TARN')).toContain(99)
  })

  it('where the market does not answer, the complete ones are looked at alone', async () => {
    const market = new Market(['TARN'], 10)
    await bring(market)
    market.before = () => {
      throw unreachable()
    }
    expect(await closesOf(bring(market, frame), 'TARN')).toHaveLength(10)
    expect(useUpdates.getState().updates[frameName(frame)]?.problem).toContain('does not answer')
  })
})
