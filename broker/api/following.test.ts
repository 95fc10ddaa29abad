import { describe, expect, it } from '@jest/globals'
import { createParser } from 'eventsource-parser'
import { type Tick } from '@/core/market/wire'
import { type Desk, deskFor, problem, Wall } from '@/tests/broker'

interface Told {
  event?: string
  id?: string
  data: string
}

describe('what is followed, and what is past', () => {
  const wall = new Wall()
  let desk: Desk
  deskFor(wall, (made) => (desk = made))

  /** Opens a stream and reads on until so many events have come; `meanwhile` happens once it is open. */
  async function read(
    path: string,
    count: number,
    meanwhile = async () => {},
    { id, after = 0 }: { id?: string; after?: number } = {},
  ): Promise<Told[]> {
    const abort = new AbortController()
    const answer = await desk.app.request(path, {
      headers: { Authorization: `Bearer ${desk.token}`, ...(id ? { 'Last-Event-ID': id } : {}) },
      signal: abort.signal,
    })
    expect(answer.status).toBe(200)
    const told: Told[] = []
    const parser = createParser({ onEvent: (event) => void told.push(event) })
    const reader = answer.body!.getReader()
    const decoder = new TextDecoder()
    let happened = false
    while (told.length < count) {
      if (!happened && told.length >= after) {
        happened = true
        await meanwhile()
      }
      const { value, done } = await reader.read()
      if (done) break
      parser.feed(decoder.decode(value, { stream: true }))
    }
    await reader.cancel()
    abort.abort()
    return told
  }

  it('past trades and quotes of a span, cut where they are many, and nothing of the future', async () => {
    const path = '/paper/securities/OSPRY/ticks'
    const all = await desk.get<Tick[]>(`${path}?from=2026-03-16T10:30&to=2026-03-16T10:31`)
    expect(all).toHaveLength(60)
    expect([all[0].at, all[59].at]).toEqual(['2026-03-16T10:30:00-03:00', '2026-03-16T10:30:59-03:00'])
    for (const { bid, ask, last } of all) expect(last >= bid - 1e-9 && last <= ask + 1e-9).toBe(true)
    const [bar] = await desk
      .get<{ bars: { high: number; low: number; close: number; volume: number }[] }>(
        '/paper/securities/OSPRY/bars?every=1%20min&from=2026-03-16T10:30&to=2026-03-16T10:31',
      )
      .then(({ bars }) => bars)
    // The minute's bar is made of these seconds.
    expect(all.at(-1)!.last).toBe(bar.close)
    expect(Math.max(...all.map(({ last }) => last))).toBe(bar.high)
    expect(all.reduce((sum, { volume = 0 }) => sum + volume, 0)).toBe(bar.volume)
    const cut = await desk.call('GET', `${path}?from=2026-03-13T15:59&limit=90`)
    expect(cut.headers.get('heron-cut')).toContain('first 90')
    const rest = await desk.get<Tick[]>(/<([^>]+)>/.exec(cut.headers.get('link')!)![1])
    // Over the weekend: the first minute of Monday goes on after the last of Friday.
    expect([((await cut.json()) as Tick[])[60].at, rest[0].at]).toEqual([
      '2026-03-16T09:30:00-03:00',
      '2026-03-16T09:30:30-03:00',
    ])
    expect(await desk.get(`${path}?from=2026-03-17`)).toEqual([])
    await problem(desk.call('GET', `${path}?from=yesterday`), 400, 'malformed-request')
  })

  it('bars come as they are complete, and a stream that was cut goes on without loss', async () => {
    const path = '/paper/bars/stream?symbols=OSPRY,GANET&every=1%20min'
    const told = await read(path, 2, () => desk.run(wall, 61))
    expect(told.map(({ event }) => event)).toEqual(['bar', 'bar'])
    expect(JSON.parse(told[0].data)).toMatchObject({ symbol: 'OSPRY', time: '2026-03-16T10:42:00-03:00' })
    await desk.run(wall, 180)
    const more = await read(path, 6, undefined, { id: told[1].id })
    expect(more.map(({ data }) => (JSON.parse(data) as { time: string }).time.slice(11, 16))).toEqual([
      ...['10:43', '10:43', '10:44', '10:44', '10:45', '10:45'],
    ])
    await problem(
      desk.app.request(path, {
        headers: { Authorization: `Bearer ${desk.token}`, 'Last-Event-ID': '2026-04-01T10:00:00-03:00' },
      }),
      400,
      'foreign-event',
    )
  })

  it('the state of venues and halts is told at once and as it changes', async () => {
    const halt = async () => {
      await desk.call('POST', '/paper/halts', { symbol: 'OSPRY', seconds: 30 })
    }
    const told = await read('/paper/status/stream', 4, halt, { after: 3 })
    expect(told.map(({ event }) => event)).toEqual(['session', 'session', 'halts', 'halts'])
    expect(JSON.parse(told[3].data)).toEqual(['OSPRY'])
  })

  it('a client holds the clock: it moves on once it has answered, and not past what it has to answer for', async () => {
    const made = await desk.call('POST', '/paper/market-time/hold', { wallSeconds: 20 })
    const hold = (await made.json()) as { id: string; answered: number }
    await desk.send({ clOrdId: 'held', symbol: 'GANET', orderQty: 1 })
    await desk.run(wall, 3)
    const { seq } = desk.world.main.book
    const stood = desk.world.clock.now()
    await desk.run(wall, 4)
    expect(desk.world.clock.now()).toBe(stood)
    await problem(desk.call('POST', '/paper/market-time', { step: 60 }), 409, 'not-possible')
    const path = `/paper/market-time/hold/${hold.id}`
    await problem(desk.call('PUT', path, { answered: seq + 1 }), 400, 'malformed-request')
    await desk.call('PUT', path, { answered: desk.world.main.book.seq })
    await desk.run(wall, 10)
    // What passed while it was held is not made up for.
    expect(desk.world.clock.now() - stood).toBeLessThanOrEqual(14_000)
    expect(desk.world.clock.now()).toBeGreaterThan(stood)
    await desk.send({ clOrdId: 'late', symbol: 'GANET', orderQty: 1 })
    await desk.run(wall, 1)
    // Who takes longer than he may holds it no more.
    await desk.run(wall, 21)
    await desk.run(wall, 2)
    await problem(desk.call('PUT', path, { answered: seq }), 404, 'not-found')
    const before = desk.world.clock.now()
    await desk.run(wall, 5)
    expect(desk.world.clock.now()).toBeGreaterThan(before)
  })

  it('hours in which every venue is closed are skipped, but for a moment at which somebody is to be woken', async () => {
    await desk.world.setClock({ moveTo: Date.parse('2026-03-16T19:59:00-03:00'), rate: 60 })
    await desk.call('POST', '/paper/market-time/wake', { at: '2026-03-16T21:00' })
    wall.pass(1)
    await desk.world.tick()
    expect(desk.world.timeText()).toBe('2026-03-16T21:00:00-03:00')
    await desk.run(wall, 1)
    expect(desk.world.clock.now()).toBeGreaterThan(Date.parse('2026-03-17T01:00:00-03:00'))
    await problem(
      desk.call('POST', '/paper/market-time/wake', { at: '2026-03-16' }),
      400,
      'malformed-request',
    )
  })
})
