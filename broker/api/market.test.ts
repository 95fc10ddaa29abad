import { describe, expect, it } from '@jest/globals'
import { decodeBars } from '@/core/formats/barsBinary'
import { readCsv } from '@/core/formats/csv'
import { type Action, adjusted } from '@/core/market/adjust'
import { openTable } from '@/core/market/barTable'
import { type Security } from '@/core/market/security'
import { type Desk, deskFor, problem, Wall } from '@/tests/broker'

let desk: Desk
const wall = new Wall()

deskFor(wall, (opened) => (desk = opened))

/** Bars of many securities in their compact form. */
const barsOf = async (query: string) =>
  openTable(decodeBars(await (await desk.call('GET', `/paper/bars?${query}`)).arrayBuffer()))

describe('the listing', () => {
  it('tells of every index who its members are', async () => {
    const listed = await desk.get<Security[]>('/paper/securities')
    const members = (index: string) => listed.filter((s) => s.indices.includes(index))
    const stocks = (venue: string) => listed.filter((s) => s.venue === venue && s.kind === 'Stock').length
    expect(members('Brackwater All-Share')).toHaveLength(stocks('XBKW'))
    expect(members('Skerry All-Share')).toHaveLength(stocks('XSKR'))
    expect(members('Brackwater Forty')).toHaveLength(40)
    expect(members('Brackwater Forty').every((s) => s.indices.includes('Brackwater All-Share'))).toBe(true)
    expect(listed.filter((s) => s.kind !== 'Stock').every((s) => s.indices.length === 0)).toBe(true)
  })
})

describe('bars that are not complete', () => {
  // It is 10:42 in Halifax and 15:42 in Helsinki: both venues are open.
  it.each([
    ['1 min', 'OSPRY', null],
    ['5 min', 'OSPRY', Infinity],
    ['45 min', 'OSPRY', Infinity],
    ['2 hour', 'OSPRY', Infinity],
    ['1 day', 'OSPRY', Infinity],
    ['1 week', 'OSPRY', Infinity],
    ['1 month', 'OSPRY', Infinity],
    ['25 min', 'SUVAN', Infinity],
  ])('%s of %s: open-ended where they are asked for, left out where not', async (every, symbol, end) => {
    const query = `every=${encodeURIComponent(every)}&symbols=${symbol}&limit=4`
    const [soFar, complete] = [await barsOf(`${query}&soFar=true`), await barsOf(query)]
    const ends = [...soFar.bars[0].end]
    // At a whole minute no minute is under way.
    if (end !== null) expect(ends.at(-1)).toBe(end)
    expect(ends.slice(0, -1).every(Number.isFinite)).toBe(true)
    const last = complete.bars[0].end.at(-1)!
    expect(last).toBeLessThanOrEqual(desk.world.clock.now())
    if (end !== null) expect(ends.at(-2)).toBe(last)
  })

  it('the last bar of a session, shorter than the others, is complete when the session is over', async () => {
    const { bars } = await barsOf('every=25%20min&symbols=OSPRY&limit=40')
    const ends = [...bars[0].end].map((end, i) => (end - bars[0].time[i]) / 60_000)
    // 390 minutes are fifteen times 25, and 15 more.
    expect(ends.filter((length) => length === 15).length).toBeGreaterThanOrEqual(1)
    expect(ends.every((length) => length === 25 || length === 15)).toBe(true)
  })
})

describe('what is asked for cannot be had', () => {
  it.each([
    ['every=1%20day&symbols=OSPRY,NONE', 422, 'unknown-security'],
    ['every=0%20min&symbols=OSPRY', 400, 'malformed-request'],
    ['every=1%20day&limit=-4', 400, 'malformed-request'],
    ['every=1%20day&from=yesterday', 400, 'malformed-request'],
    ['every=1%20day&prices=twice', 400, 'malformed-request'],
  ])('/paper/bars?%s', async (query, status, kind) => {
    const body = await problem(desk.call('GET', `/paper/bars?${query}`), status, kind)
    expect(body.mend).not.toBe('')
  })
})

describe('market data', () => {
  it('daily bars as JSON, CSV and FHB1 are the same, and today’s is left out until it is complete', async () => {
    const path = '/paper/securities/OSPRY/bars?every=1%20day&limit=20'
    const { bars } = await desk.get<{ bars: { time: string; close: number; volume: number }[] }>(path)
    expect(bars).toHaveLength(20)
    expect(bars.at(-1)!.time).toBe('2026-03-13')
    const csv = await desk.call('GET', `${path}&format=csv`)
    expect(csv.headers.get('content-type')).toContain('text/csv')
    const rows = readCsv(await csv.text()).rows.map((r) => Number(r.cells[4]))
    expect(rows).toEqual(bars.map((b) => b.close))
    const answer = await desk.call('GET', '/paper/bars?every=1%20day&symbols=OSPRY,GANET&limit=20')
    const set = openTable(decodeBars(await answer.arrayBuffer()))
    expect(set.symbols).toEqual(['OSPRY', 'GANET'])
    expect([...set.bars[0].close]).toEqual(rows)
    const { bars: sofar } = await desk.get<{ bars: { time: string }[] }>(`${path}&soFar=true`)
    expect(sofar.at(-1)!.time).toBe('2026-03-16')
  })

  it('tells every venue in its own time, and bars of each in its own zone', async () => {
    const venues =
      await desk.get<{ mic: string; zone: string; currency: string; now: string }[]>('/paper/venues')
    expect(venues.map((v) => [v.mic, v.zone, v.currency, v.now.slice(-6)])).toEqual([
      ['XBKW', 'America/Halifax', 'USD', '-03:00'],
      ['XSKR', 'Europe/Helsinki', 'EUR', '+02:00'],
    ])
    const { bars } = await desk.get<{ bars: { time: string }[] }>(
      '/paper/securities/SUVAN/bars?every=30%20min&limit=3000',
    )
    expect(bars.filter((b) => b.time.includes('T10:00:00+02:00')).length).toBeGreaterThan(20)
    const both = decodeBars(
      await (await desk.call('GET', '/paper/bars?every=1%20day&symbols=OSPRY,SUVAN&limit=5')).arrayBuffer(),
    )
    expect(both.calendars.map((c) => c.zone)).toEqual(['America/Halifax', 'Europe/Helsinki'])
  })

  it('an index can be looked at, not ordered', async () => {
    await problem(desk.send({ symbol: 'BWALL', clOrdId: 'index-1' }), 422, 'not-orderable')
  })

  it('bars as traded, with splits and dividends told, are made comparable by what is told', async () => {
    const listing = desk.world.markets.listing.filter((l) => l.kind === 'Stock')
    let told = 0
    for (const { symbol } of listing.slice(0, 60)) {
      const actions = await desk.get<Action[]>(`/paper/securities/${symbol}/actions`)
      if (actions.length === 0) continue
      told++
      const of = async (how: string) =>
        openTable(
          decodeBars(
            await (
              await desk.call('GET', `/paper/bars?every=1%20day&symbols=${symbol}&prices=${how}`)
            ).arrayBuffer(),
          ),
        ).bars[0]
      const [raw, splits, all] = [
        await of('as-traded'),
        await of('over-splits'),
        await of('over-splits-and-dividends'),
      ]
      adjusted(raw, actions, 'over-splits').close.forEach((x, i) => expect(x).toBeCloseTo(splits.close[i], 3))
      adjusted(raw, actions, 'over-splits-and-dividends').close.forEach((x, i) =>
        expect(x).toBeCloseTo(all.close[i], 3),
      )
    }
    expect(told).toBeGreaterThan(3)
  })

  it('companies have reported by now what they have, and the next date lies ahead', async () => {
    const reports = await desk.get<{ symbol: string; known: string; eps?: number; nextEarnings?: string }[]>(
      '/paper/reports?symbols=OSPRY,GANET',
    )
    expect(new Set(reports.map((r) => r.symbol))).toEqual(new Set(['OSPRY', 'GANET']))
    const now = Date.parse((await desk.get<{ now: string }>('/paper/market-time')).now)
    for (const report of reports) expect(Date.parse(report.known)).toBeLessThanOrEqual(now)
    expect(reports.filter((r) => r.symbol === 'OSPRY').at(-1)!.nextEarnings! >= '2026-03-16').toBe(true)
    await problem(desk.call('GET', '/paper/bars?every=1%20day&extras=moonlight'), 400, 'malformed-request')
  })

  it('counts up and down trades of minutes, and option contracts of days, where asked', async () => {
    const minutes = await desk.get<{ bars: { uptrades?: number; downtrades?: number; volume: number }[] }>(
      '/paper/securities/OSPRY/bars?every=5%20min&limit=20&extras=uptrades,downtrades',
    )
    for (const bar of minutes.bars) {
      expect(bar.uptrades! + bar.downtrades!).toBeLessThanOrEqual(300)
      expect(bar.uptrades! + bar.downtrades!).toBeGreaterThan(0)
    }
    // Counted from a moment on they are what they are among all of the session.
    for (const every of ['1 min', '5 min', '1 hour']) {
      const path = `/paper/securities/OSPRY/bars?every=${every}&limit=100&extras=uptrades,downtrades`
      const all = await desk.get<{ bars: { time: string }[] }>(path)
      const { time } = all.bars[all.bars.length - 2]!
      const last = await desk.get<{ bars: unknown[] }>(`${path}&from=${encodeURIComponent(time)}`)
      expect(last.bars).toEqual(all.bars.slice(-2))
    }
    const days = await desk.get<{ bars: { optionvolume?: number }[] }>(
      '/paper/securities/OSPRY/bars?every=1%20day&limit=5&extras=optionvolume',
    )
    expect(days.bars.every((bar) => Number.isInteger(bar.optionvolume))).toBe(true)
  })

  it('minute bars carry the offset of the venue, on both sides of the clock change', async () => {
    const { bars } = await desk.get<{ bars: { time: string }[] }>(
      '/paper/securities/OSPRY/bars?every=1%20min&limit=3000',
    )
    const opens = bars.filter((b) => b.time.includes('T09:30')).map((b) => b.time)
    expect(opens).toContain('2026-03-06T09:30:00-04:00')
    expect(opens).toContain('2026-03-09T09:30:00-03:00')
  })

  it('tells the session of the venue', async () => {
    expect(await desk.get('/paper/venues/XBKW/session')).toMatchObject({
      state: 'Open',
      date: '2026-03-16',
      zone: 'America/Halifax',
    })
    expect((await desk.call('GET', '/paper/venues/NONE/session')).status).toBe(404)
    await problem(desk.call('GET', '/paper/securities/NONE'), 422, 'unknown-security')
    await problem(
      desk.call('GET', '/paper/securities/OSPRY/bars?every=7%20furlongs'),
      400,
      'malformed-request',
    )
  })

  it('the clock can be paused, stepped and jumped, never turned back', async () => {
    expect(await (await desk.call('POST', '/paper/market-time', { running: false })).json()).toMatchObject({
      running: false,
    })
    const before = await desk.get<{ now: string }>('/paper/market-time')
    wall.pass(30)
    expect(await desk.get('/paper/market-time')).toMatchObject(before)
    const stepped = (await (await desk.call('POST', '/paper/market-time', { step: 60 })).json()) as {
      now: string
    }
    expect(Date.parse(stepped.now) - Date.parse(before.now)).toBe(60_000)
    await problem(desk.call('POST', '/paper/market-time', { step: -60 }), 400, 'malformed-request')
    const jumped = (await (await desk.call('POST', '/paper/market-time', { jumpTo: 'close' })).json()) as {
      now: string
    }
    expect(jumped.now).toContain('T16:00:00')
    const body = await problem(desk.send({ clOrdId: 'late', symbol: 'OSPRY' }), 422, 'market-closed')
    expect(body.mend).toContain('Wait for the open')
    const opened = (await (
      await desk.call('POST', '/paper/market-time', { jumpTo: 'open', running: true })
    ).json()) as {
      now: string
    }
    expect(opened.now).toBe('2026-03-17T09:30:00-03:00')
  })
})

describe('quotes', () => {
  it('come with the clock, and again only where they changed', async () => {
    const gone = new AbortController()
    const answer = await desk.app.request('/paper/quotes/stream?symbols=OSPRY,GANET', {
      headers: { Authorization: `Bearer ${desk.token}` },
      signal: gone.signal,
    })
    const reader = answer.body!.pipeThrough(new TextDecoderStream()).getReader()
    let text = ''
    const until = async (pattern: RegExp) => {
      while (!pattern.test(text)) text += (await reader.read()).value
      const found = pattern.exec(text)![1]
      text = ''
      return JSON.parse(found) as never
    }
    const first = await until(/event: quotes\ndata: (.*)\n\n/)
    expect((first as { symbol: string }[]).map((q) => q.symbol)).toEqual(['OSPRY', 'GANET'])
    for (const { bid, ask, last } of first as { bid: number; ask: number; last: number }[]) {
      expect(bid).toBeLessThan(ask)
      expect([bid, ask]).toContain(last)
    }
    const next = until(/event: clock\ndata: (.*)\n\n/)
    await desk.run(wall, 61)
    expect(await next).toMatchObject({ running: true, session: 'Open' })
    gone.abort()
    await reader.cancel()
  })

  it('of an open stream change with what it is told to follow; what was traded between is in each', async () => {
    const gone = new AbortController()
    const answer = await desk.app.request('/paper/quotes/stream?symbols=', {
      headers: { Authorization: `Bearer ${desk.token}` },
      signal: gone.signal,
    })
    const reader = answer.body!.pipeThrough(new TextDecoderStream()).getReader()
    let text = ''
    const next = async <T>(event: string): Promise<T> => {
      const pattern = new RegExp(`event: ${event}\\ndata: (.*)\\n\\n`)
      while (!pattern.test(text)) text += (await reader.read()).value
      const found = pattern.exec(text)!
      text = text.slice(found.index + found[0].length)
      return JSON.parse(found[1]) as T
    }
    type Tick = { symbol: string; last: number; since?: { high: number; low: number; volume: number } }
    const { id } = await next<{ id: string }>('stream')
    const told = await desk.call('PUT', `/paper/quotes/stream/${id}`, {
      symbols: ['OSPRY', 'GANET', 'OSPRY'],
    })
    expect(await told.json()).toEqual({ followed: 2 })
    const first = await next<Tick[]>('quotes')
    expect(first.map((tick) => [tick.symbol, tick.since])).toEqual([
      ['OSPRY', undefined],
      ['GANET', undefined],
    ])
    await desk.run(wall, 90)
    const [tick] = (await next<Tick[]>('quotes')).filter(({ symbol }) => symbol === 'OSPRY')
    expect(tick.since!.high).toBeGreaterThanOrEqual(tick.last)
    expect(tick.since!.low).toBeLessThanOrEqual(tick.last)
    expect(tick.since!.volume).toBeGreaterThan(0)
    await desk.call('PUT', `/paper/quotes/stream/${id}`, { symbols: ['GANET'] })
    await desk.run(wall, 30)
    expect((await next<Tick[]>('quotes')).map(({ symbol }) => symbol)).toEqual(['GANET'])
    await problem(
      desk.call('PUT', `/paper/quotes/stream/${id}`, { symbols: ['NONE'] }),
      422,
      'unknown-security',
    )
    await problem(desk.call('PUT', '/paper/quotes/stream/elsewhere', { symbols: [] }), 404, 'not-found')
    gone.abort()
    await reader.cancel()
  })

  it('of one security or of all; an unknown one is named', async () => {
    expect(await desk.get<unknown[]>('/paper/quotes?symbols=OSPRY')).toHaveLength(1)
    expect((await desk.get<unknown[]>('/paper/quotes')).length).toBeGreaterThan(150)
    const body = await problem(desk.call('GET', '/paper/quotes?symbols=OSPRY,NONE'), 422, 'unknown-security')
    expect(body.detail).toContain('NONE')
  })
})
