import { beforeAll, describe, expect, it } from '@jest/globals'
import { connect } from 'node:net'
import { processFor } from '@/tests/broker'
import { type BrokerProcess } from '@/tests/process'

let broker: BrokerProcess
let token: string
processFor((started) => (broker = started))
beforeAll(async () => {
  token = await broker.token()
})

/** What the broker answers to bytes that need not be HTTP. */
const answerTo = (bytes: string): Promise<string> =>
  new Promise((resolve, reject) => {
    const socket = connect(broker.port, '127.0.0.1', () => socket.end(bytes))
    let text = ''
    socket.on('data', (part) => (text += part.toString()))
    socket.on('close', () => resolve(text))
    socket.on('error', reject)
  })

const get = (path: string) => fetch(broker.url + path, { headers: { Authorization: `Bearer ${token}` } })

describe('what is not HTTP', () => {
  it.each([
    ['no request at all', 'hello there\r\n\r\n', 400],
    ['a header without a colon', 'GET /health HTTP/1.1\r\nHost: x\r\nnonsense\r\n\r\n', 400],
    [
      'two content lengths',
      'POST /paper/token HTTP/1.1\r\nHost: x\r\nContent-Length: 1\r\nContent-Length: 2\r\n\r\n',
      400,
    ],
    ['headers without an end', `GET /health HTTP/1.1\r\nHost: x\r\nX: ${'y'.repeat(40_000)}\r\n\r\n`, 431],
    ['a host that is none', 'GET /health HTTP/1.1\r\nHost: a b\r\nConnection: close\r\n\r\n', 400],
  ])('%s is a problem document', async (_, bytes, status) => {
    const answer = await answerTo(bytes)
    expect(answer).toContain(`HTTP/1.1 ${status}`)
    expect(answer.toLowerCase()).toContain('content-type: application/problem+json')
    const body = JSON.parse(answer.slice(answer.indexOf('{'), answer.lastIndexOf('}') + 1)) as object
    expect(body).toMatchObject({ status, mend: expect.any(String) })
  })
})

describe('long answers', () => {
  it('give way: orders that are sent while one is made are answered before it', async () => {
    const { bars } = (await (await get('/paper/securities/OSPRY/bars?limit=1')).json()) as {
      bars: { close: number }[]
    }
    const listed = (await (await get('/paper/securities')).json()) as { symbol: string }[]
    const symbols = listed.slice(0, 100).map((s) => s.symbol)
    // Each named twice: sent once.
    const query = new URLSearchParams({
      every: '1 min',
      limit: '2000',
      symbols: [...symbols, ...symbols].join(),
    })
    let over = false
    const long = get(`/paper/bars?${query}`).then(async (answer) => {
      const bytes = (await answer.arrayBuffer()).byteLength
      over = true
      return bytes
    })
    let before = 0
    for (let i = 0; i < 3; i++) {
      const answer = await fetch(`${broker.url}/paper/orders`, {
        method: 'POST',
        headers: { Authorization: `Bearer ${token}`, 'Content-Type': 'application/json' },
        body: JSON.stringify({
          ...{ clOrdId: `between-${i}`, symbol: 'OSPRY', side: 'Buy', orderQty: 1, ordType: 'Limit' },
          price: Math.floor(bars[0].close / 2),
        }),
      })
      expect(answer.status).toBe(201)
      if (!over) before++
    }
    expect(await long).toBeLessThan(100 * 2000 * 5 * 4 + 200_000)
    expect(before).toBeGreaterThan(0)
  })

  it('are bounded, and say how much may be asked for', async () => {
    const answer = await get('/paper/bars?every=1%20min&limit=50000')
    expect(answer.status).toBe(400)
    const { type, mend } = (await answer.json()) as { type: string; mend: string }
    expect(type).toBe('/problems/answer-too-long')
    const most = Number(/at most (\d+) symbols/.exec(mend)![1])
    expect(most * 50_000).toBeLessThanOrEqual(1_000_000)
  })
})

describe('an answer that is cut', () => {
  interface Told {
    cut: boolean
    rest?: string
    bars: { time: string }[]
  }
  it('says so in JSON, CSV and headers, and leads to the rest: nothing is missed, nothing comes twice', async () => {
    const path = '/paper/securities/OSPRY/bars?every=1%20day&from=2022-01-03'
    const first = await get(path)
    expect(first.headers.get('heron-cut')).toBe('the last 500 bars; there are more')
    const told = (await first.json()) as Told
    expect([told.cut, told.bars.length]).toEqual([true, 500])
    expect(first.headers.get('link')).toBe(`<${told.rest}>; rel="next"`)
    const times = told.bars.map((b) => b.time)
    for (let next = told.rest; next;) {
      const more = (await (await get(next)).json()) as Told
      times.unshift(...more.bars.map((b) => b.time))
      next = more.rest
    }
    const whole = (await (await get(`${path}&limit=5000`)).json()) as Told
    expect(whole.cut).toBe(false)
    expect(times).toEqual(whole.bars.map((b) => b.time))
    expect(times[0]).toBe('2022-01-03')
    const csv = (await (await get(`${path}&format=csv`)).text()).trim().split('\r\n')
    expect(csv.at(-1)).toBe(
      `# cut: only the last 500 bars stand here; those before: ${told.rest}&format=csv`.replace(
        /(&to=[^&]+)(&format=csv)/,
        '$2$1',
      ),
    )
  })

  it('minutes likewise, from and to being times of day in the zone of the venue or with an offset', async () => {
    const of = async (query: string) => {
      const path = `/paper/securities/OSPRY/bars?every=1%20min&${new URLSearchParams(query)}`
      return (await (await get(path)).json()) as Told
    }
    const plain = await of('from=2026-03-13T10:30&to=2026-03-13T11:00')
    expect([plain.bars[0].time, plain.bars.at(-1)!.time, plain.bars.length, plain.cut]).toEqual([
      '2026-03-13T10:30:00-03:00',
      '2026-03-13T10:59:00-03:00',
      30,
      false,
    ])
    const offset = await of('from=2026-03-13T14:30+01:00&to=2026-03-13T14:00Z'.replace('+', '%2B'))
    expect(offset.bars).toEqual(plain.bars)
    const cut = await of('from=2026-03-13&to=2026-03-13&limit=100')
    expect([cut.cut, cut.bars.length, cut.bars.at(-1)!.time]).toEqual([
      true,
      100,
      '2026-03-13T15:59:00-03:00',
    ])
    const rest = (await (await get(cut.rest!)).json()) as Told
    expect(rest.bars.at(-1)!.time).toBe('2026-03-13T14:19:00-03:00')
  })
})
