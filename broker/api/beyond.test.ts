import { beforeAll, describe, expect, it } from '@jest/globals'
import { isOption } from '@/core/options/osi'
import { type Security } from '@/core/market/security'
import { type Desk, deskFor, Wall } from '@/tests/broker'

/**
 * Every route of the table is asked in a rehearsal for what lies beyond its moment, and again once its clock has passed it: what
 * is told then was not told before, and what was told before still stands.
 */

let desk: Desk
const wall = new Wall()
deskFor(wall, (opened) => (desk = opened))

const AT = '/rehearsals/then'
const THEN = Date.parse('2026-02-10T11:00:20-04:00')
const LATER = '2026-02-27'

/** Ways in which routes are asked beyond the moment; as it comes where a route is not named. */
const asked = (contract: string): Record<string, string[]> => ({
  '/securities/{symbol}/bars': ['1%20day', '1%20min', '15%20min'].flatMap((every) => [
    ...['', '&prices=as-traded', '&extras=optionvolume,uptrades,downtrades'].flatMap((more) => [
      `/securities/OSPRY/bars?every=${every}&soFar=true&from=2026-02-09&to=${LATER}&limit=20000${more}`,
      `/securities/OSPRY/bars?every=${every}&soFar=false&from=2026-02-11&to=${LATER}${more}`,
    ]),
    `/securities/${contract}/bars?every=${every}&soFar=true&from=2026-02-09&to=2026-02-12&limit=20000`,
  ]),
  '/securities/{symbol}/ticks': ['OSPRY', contract].flatMap((symbol) => [
    `/securities/${symbol}/ticks?from=2026-02-10T10:59&to=${LATER}&limit=500`,
    `/securities/${symbol}/ticks?from=2026-02-10T11:30&to=${LATER}&limit=500`,
  ]),
  '/securities/{symbol}/actions': ['OSPRY', 'DECKC', 'SUVAN'].map((one) => `/securities/${one}/actions`),
  '/securities/{symbol}': [`/securities/${contract}`],
  '/options': [
    '/options?underlyingSymbol=OSPRY',
    `/options?underlyingSymbol=OSPRY&maturityFrom=${LATER}&maturityTo=2026-12-31`,
    `/options?underlyingSymbol=OSPRY&securityStatus=Expired&maturityFrom=2026-01-01&maturityTo=${LATER}`,
  ],
  '/rates': ['/rates', `/rates?date=${LATER}`],
  '/quotes': [`/quotes?symbols=OSPRY,${contract}`],
  '/venues/{mic}/session': ['/venues/XBKW/session'],
  '/history': [`/history?to=${LATER}`],
  '/statement': [`/statement?to=${LATER}`],
  '/orders': [`/orders?which=all&to=${LATER}`],
})

/** Fields of what is announced ahead (calendars, contracts, dates of reports, how long something lasts), and wall time of keys. */
const ANNOUNCED =
  /^(opens|closes|date|maturityDate|nextEarnings|settlDate|expireDate|until|expires|name|symbol|made|renewed|lastUse)$/

/** Moments and dates of an answer that lie beyond a moment, with the field that tells them. */
function* beyond(value: unknown, moment: number, field = ''): Generator<string> {
  if (Array.isArray(value)) for (const one of value) yield* beyond(one, moment, field)
  else if (value !== null && typeof value === 'object')
    for (const [key, one] of Object.entries(value)) yield* beyond(one, moment, key)
  else if (typeof value === 'string' && /^\d{4}-\d{2}-\d{2}/.test(value) && !ANNOUNCED.test(field)) {
    const isDate = value.length === 10
    if (isDate ? value > new Date(moment).toISOString().slice(0, 10) : Date.parse(value) > moment)
      yield `${field}: ${value}`
  }
}

interface Answer {
  status: number
  body: unknown
}

const ask = async (path: string): Promise<Answer> => {
  const answer = await desk.call('GET', `${AT}${path}`)
  const isStream = answer.headers.get('Content-Type')?.includes('event-stream')
  if (!isStream) {
    const text = await answer.text()
    const isJson = answer.headers.get('Content-Type')?.includes('json')
    return { status: answer.status, body: isJson ? JSON.parse(text) : text.length }
  }
  const reader = answer.body!.getReader()
  const quiet = new Promise<undefined>((resolve) => setTimeout(resolve, 150))
  const first = await Promise.race([reader.read(), quiet])
  await reader.cancel()
  const data = /^data: (.*)$/m.exec(first?.value ? new TextDecoder().decode(first.value) : '')?.[1]
  return { status: answer.status, body: data ? JSON.parse(data) : undefined }
}

/** Rows of an answer by the moment or date that they are of; undefined where they are of none. */
function rowsOf({ body }: Answer): Map<string, unknown> | undefined {
  const list = (Array.isArray(body) ? body : (body as { bars?: unknown[] })?.bars) as
    | Record<string, unknown>[]
    | undefined
  if (!Array.isArray(list) || list.length === 0) return undefined
  const key = ['time', 'exDate', 'known', 'at'].find((name) => typeof list[0][name] === 'string')
  return key === undefined
    ? undefined
    : new Map(list.map((row) => [`${String(row.symbol ?? '')} ${String(row[key])}`, row]))
}

describe('a rehearsal that is asked beyond its moment', () => {
  const before = new Map<string, Answer>()
  let contract = ''

  beforeAll(async () => {
    await desk.call('POST', '/rehearsals', { id: 'then', start: '2026-02-10T09:40:00-04:00' })
    await desk.world.setClock({ running: false })
    for (const [clOrdId, more] of [
      ['a', {}],
      ['b', { ordType: 'Limit', price: 1, timeInForce: 'GoodTillCancel' }],
    ] as const)
      await desk.call('POST', `${AT}/orders`, {
        clOrdId,
        symbol: 'OSPRY',
        side: 'Buy',
        orderQty: 10,
        ordType: 'Market',
        ...more,
      })
    const now = Date.parse((await desk.get<{ now: string }>(AT)).now)
    await desk.call('POST', `${AT}/market-time`, { step: (THEN - now) / 1000 })
    const chain = await desk.get<Security[]>(`${AT}/options?underlyingSymbol=OSPRY`)
    contract = encodeURIComponent(chain.find(({ option }) => option!.maturityDate > LATER)!.symbol)
    const { paths } = await desk.get<{ paths: Record<string, Record<string, { servers?: unknown }>> }>(
      '/openapi.json',
    )
    const ways = asked(contract)
    const reads = Object.entries(paths).filter(([, methods]) => methods.get && !methods.get.servers)
    expect(reads.length).toBeGreaterThan(25)
    for (const [path] of reads) {
      const plain =
        path === '/'
          ? ''
          : path
              .replace('{symbol}', 'OSPRY')
              .replace('{mic}', 'XBKW')
              .replace(/\{\w+\}/g, 'a')
      const needs =
        path === '/bars/stream'
          ? '?symbols=OSPRY'
          : path === '/bars'
            ? `?every=1%20day&limit=50&symbols=OSPRY`
            : ''
      for (const way of ways[path] ?? [`${plain}${needs}`]) before.set(way, await ask(way))
    }
  })

  it('tells no moment that lies ahead, but what is announced', () => {
    const told = [...before].flatMap(([path, { status, body }]) =>
      status === 200 ? [...beyond(body, THEN + 999)].map((what) => `${path} ${what}`) : [],
    )
    expect(told).toEqual([])
    const refused = [...before]
      .filter(([, { status }]) => status !== 200)
      .map(([path, { status }]) => `${path.split('?')[0]} ${status}`)
    // A date that lies ahead is refused; so is nothing else.
    expect([...new Set(refused)]).toEqual(['/rates 400'])
  })

  it('names no contract that is not listed yet, in any route', async () => {
    const chain = await desk.get<Security[]>(`${AT}/options?underlyingSymbol=OSPRY`)
    const later = await desk.get<Security[]>('/paper/options?underlyingSymbol=OSPRY')
    const known = new Set(chain.map(({ symbol }) => symbol))
    const ahead = later.map(({ symbol }) => symbol).filter((symbol) => isOption(symbol) && !known.has(symbol))
    expect(ahead.length).toBeGreaterThan(0)
    for (const symbol of ahead.slice(0, 3).map(encodeURIComponent))
      for (const path of [
        `/securities/${symbol}`,
        `/securities/${symbol}/bars?every=1%20day`,
        `/securities/${symbol}/ticks?from=2026-02-09`,
        `/securities/${symbol}/actions`,
        `/quotes?symbols=${symbol}`,
        `/quotes/stream?symbols=${symbol}`,
        `/bars?every=1%20day&symbols=${symbol}`,
        `/bars/stream?symbols=${symbol}`,
        `/reports?symbols=${symbol}`,
      ])
        expect([path, (await ask(path)).status]).toEqual([path, 422])
  })

  it('a growing bar is made of the seconds that have passed, and of nothing else', async () => {
    const bars = async (every: string, more = '') =>
      (
        await desk.get<{ bars: { volume: number; high: number; low: number }[] }>(
          `${AT}/securities/SCURV/bars?every=${every}&soFar=true&from=2026-02-10&limit=500${more}`,
        )
      ).bars
    const [day] = await bars('1%20day')
    const minutes = await bars('1%20min')
    const ticks = await desk.get<{ last: number; volume: number }[]>(
      `${AT}/securities/SCURV/ticks?from=2026-02-10T09:30&limit=10000`,
    )
    const sum = (values: number[]) => values.reduce((total, one) => total + one, 0)
    expect(day.volume).toBe(sum(minutes.map(({ volume }) => volume)))
    expect(day.volume).toBe(sum(ticks.map(({ volume }) => volume)))
    expect(day.high).toBe(Math.max(...ticks.map(({ last }) => last)))
    expect(day.low).toBe(Math.min(...ticks.map(({ last }) => last)))
  })

  it('once its clock has passed them: what is told is new, and what was told stands', async () => {
    for (let n = 0; n < 3; n++) await desk.call('POST', `${AT}/market-time`, { step: 604_800 })
    const now = Date.parse((await desk.get<{ now: string }>(AT)).now)
    expect(now).toBeGreaterThan(Date.parse(LATER))
    let [compared, fresh] = [0, 0]
    for (const [path, was] of before) {
      if (was.status !== 200) continue
      const is = await ask(path)
      const [old, new_] = [rowsOf(was), rowsOf(is)]
      if (!old || !new_ || path.startsWith('/quotes') || path.startsWith('/rates')) continue
      for (const [key, row] of old) {
        const complete = Date.parse(key.slice(key.indexOf(' ') + 1)) < THEN - 86_400_000
        // What grew then is complete now; what was complete is as it was.
        if (complete) expect([path, key, new_.get(key)]).toEqual([path, key, row])
        else expect([path, key, new_.has(key) || path.includes('limit=500')]).toEqual([path, key, true])
        compared++
      }
      for (const key of new_.keys()) if (!old.has(key)) fresh++
    }
    expect(compared).toBeGreaterThan(200)
    expect(fresh).toBeGreaterThan(500)
  })

  it('cannot be moved or put where its market has not been', async () => {
    const step = await desk.call('POST', `${AT}/market-time`, { step: 604_800 })
    const again = await desk.call('POST', `${AT}/market-time`, { step: 604_800 })
    expect([step.status, again.status]).toContain(409)
    expect((await desk.call('POST', `${AT}/put-back`, { to: '2026-06-01' })).status).toBe(409)
    expect((await desk.call('POST', '/rehearsals', { id: 'ahead', start: '2026-06-01' })).status).toBe(409)
  })
})
