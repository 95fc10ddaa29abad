import { describe, expect, it } from '@jest/globals'
import { join } from 'node:path'
import { BRACKWATER } from '@/core/market/venue'
import { Wall, tempDir } from '@/tests/broker'
import { Clock, rateForSession } from './clock'
import { atOnce } from './gently'
import { makeKey, secretFits } from './keys/keys'
import { Tokens } from './keys/tokens'
import { History } from './market/history'
import { LISTING } from './market/listing'
import { Market } from './market/market'

const market = new Market(BRACKWATER, LISTING, 'test', '2026-01-12', '2026-12-31')
const at = (text: string) => Date.parse(`${text}-03:00`)

describe('the clock', () => {
  const at1042 = at('2026-03-16T10:42:00')
  /** A clock of which all is written down for a year. */
  const clock = (wall: Wall, part = {}) => {
    const one = new Clock({ at: at1042, rate: 1, running: true, ...part }, market, wall.now)
    one.extendTo(at1042 + 365 * 86_400_000)
    return one
  }

  it('runs with the wall, faster or slower, and stands while paused', () => {
    const wall = new Wall()
    const one = clock(wall)
    wall.pass(90)
    expect(one.now()).toBe(at('2026-03-16T10:43:30'))
    one.set({ rate: 10 })
    one.extendTo(at1042 + 86_400_000)
    wall.pass(6)
    expect(one.now()).toBe(at('2026-03-16T10:44:30'))
    one.set({ running: false })
    wall.pass(600)
    expect(one.now()).toBe(at('2026-03-16T10:44:30'))
  })

  it('tells nothing that is not written down, and goes on where it stood once it is', () => {
    const wall = new Wall()
    const one = new Clock({ at: at1042, rate: 10, running: true }, market, wall.now)
    wall.pass(5)
    expect([one.now(), one.isBehind]).toEqual([at1042, true])
    one.extendTo(one.wants!)
    expect([one.now(), one.isBehind]).toEqual([at1042 + 50_000, false])
    wall.pass(3600)
    const stood = one.now()
    expect(stood).toBe(at1042 + 80_000)
    one.standStill()
    one.extendTo(one.wants!)
    expect(one.now()).toBe(stood)
    wall.pass(1)
    expect(one.now()).toBe(stood + 10_000)
  })

  it('never goes back, also where the wall does', () => {
    const wall = new Wall()
    const one = clock(wall)
    wall.pass(-3600)
    expect(one.now()).toBe(at('2026-03-16T10:42:00'))
    expect(() => one.moveTo(at('2026-03-16T10:41:59'))).toThrow('forward only')
  })

  it('passes over closed hours only while it runs faster than life', () => {
    const wall = new Wall()
    expect(clock(wall, { at: at('2026-03-16T16:00:01') }).skipsTo()).toBeUndefined()
    expect(clock(wall, { at: at('2026-03-16T16:00:01'), rate: 60 }).skipsTo()).toBe(at('2026-03-17T09:29:30'))
    expect(clock(wall, { rate: 60 }).skipsTo()).toBeUndefined()
  })

  it('a session of 6.5 hours in 25 seconds is 936 times life', () =>
    expect(rateForSession(6.5 * 3_600_000, 25)).toBe(936))
})

describe('keys and tokens', () => {
  it('keep nothing that the secret could be read from', async () => {
    const { key, secret } = await makeKey('paper', { scopes: ['see-market'], label: 'x' }, 0)
    expect(JSON.stringify(key)).not.toContain(secret)
    expect([await secretFits(key, secret), await secretFits(key, `${secret}x`)]).toEqual([true, false])
    expect(key.keyId).toMatch(/^paper-[0-9a-f]{12}$/)
  })

  it('tokens outlive a restart, end on time, and cannot be changed', async () => {
    const dir = await tempDir()
    const wall = new Wall()
    const path = join(dir.path, 'token.key')
    const bearer = { keyId: 'k', environment: 'paper', renewals: 0, scopes: ['see-market'] } as const
    const token = await (
      await Tokens.open(path, 900, wall.now)
    ).issue({ ...bearer, scopes: [...bearer.scopes] })
    const again = await Tokens.open(path, 900, wall.now)
    expect(await again.read(token)).toEqual(bearer)
    const [head, body, sign] = token.split('.')
    const more = Buffer.from(
      JSON.stringify({ ...JSON.parse(Buffer.from(body, 'base64url').toString()), scope: 'send-orders' }),
    ).toString('base64url')
    expect(await again.read(`${head}.${more}.${sign}`)).toBe('unknown')
    // "alg": "none" is the classic forgery (RFC 8725, 2.1).
    const none = Buffer.from('{"alg":"none"}').toString('base64url')
    expect(await again.read(`${none}.${body}.`)).toBe('unknown')
    wall.pass(901)
    expect(await again.read(token)).toBe('expired')
    await dir.remove()
  })
})

describe('history as of a moment', () => {
  const history = new History(market)
  const now = at('2026-03-16T10:42:30')
  const ask = { limit: 5000, soFar: false }
  const bars = (text: string, soFar = false, moment = now) => {
    const [count, unit] = text.split(' ')
    const every = { count: Number(count), unit: unit as 'min' }
    return atOnce(history.bars(LISTING[0], every, moment, { ...ask, soFar })).bars
  }

  it('nothing that has not happened: the bar under way only where it is asked for, and then so far', () => {
    expect(bars('1 min').end.at(-1)).toBe(at('2026-03-16T10:42:00'))
    expect(bars('1 min', true).time.at(-1)).toBe(at('2026-03-16T10:42:00'))
    expect(bars('1 day').end.at(-1)).toBe(at('2026-03-13T16:00:00'))
    const day = bars('1 day', true)
    const minutes = bars('1 min', true)
    const today = [...minutes.time.keys()].filter((i) => minutes.time[i] >= at('2026-03-16T09:30:00'))
    expect(day.close.at(-1)).toBe(minutes.close.at(-1))
    expect(day.high.at(-1)).toBe(Math.max(...today.map((i) => minutes.high[i])))
    expect(day.volume.at(-1)).toBe(today.reduce((sum, i) => sum + minutes.volume[i], 0))
  })

  it('weeks add up from days, quarter hours from minutes', () => {
    const [days, weeks] = [bars('1 day'), bars('1 week')]
    const inWeek = [...days.time.keys()].filter(
      (i) => days.time[i] >= weeks.time.at(-1)! && days.end[i] <= weeks.end.at(-1)!,
    )
    expect(weeks.volume.at(-1)).toBe(inWeek.reduce((sum, i) => sum + days.volume[i], 0))
    expect(weeks.close.at(-1)).toBe(days.close.at(-1))
    const [minutes, quarters] = [bars('1 min'), bars('15 min')]
    const last = quarters.time.length - 1
    const inside = [...minutes.time.keys()].filter(
      (i) => minutes.time[i] >= quarters.time[last] && minutes.end[i] <= quarters.end[last],
    )
    expect(inside).toHaveLength(15)
    expect(quarters.high[last]).toBe(Math.max(...inside.map((i) => minutes.high[i])))
  })

  it('a bar once complete never changes', () => {
    const early = bars('15 min', false, at('2026-03-16T11:00:00'))
    const late = bars('15 min', false, at('2026-03-16T15:00:00'))
    const n = early.time.length
    const shift = [...late.time].indexOf(early.time[0])
    for (const name of ['time', 'end', 'open', 'high', 'low', 'close', 'volume'] as const)
      expect([...late[name].slice(shift, shift + n)]).toEqual([...early[name]])
  })
})
