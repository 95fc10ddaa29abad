import { afterEach, describe, expect, it, jest } from '@jest/globals'
import { Access, Broker, BrokerProblem, follow, keyTokens, problemOf, type StreamEvent } from '@/client'
import { demoTokens } from '../services/demoTokens'

const URL = 'http://broker.test'
const ok = (body: unknown, status = 200) => new Response(JSON.stringify(body), { status })
const token = (text: string, expires_in = 900) =>
  ok({ access_token: text, token_type: 'Bearer', expires_in, keyId: 'paper-demo' })
const problem = (kind: string, status: number) =>
  ok(
    { type: `/problems/${kind}`, title: 'Title', status, detail: 'What is wrong.', mend: 'What to do.' },
    status,
  )

type Answer = (url: string, init: RequestInit) => Response | Promise<Response>
/** Answers each request in turn; keeps what was asked. */
function answering(...answers: Answer[]): { url: string; headers: Headers }[] {
  const asked: { url: string; headers: Headers }[] = []
  jest.spyOn(globalThis, 'fetch').mockImplementation((url, init) => {
    asked.push({ url: String(url), headers: new Headers(init?.headers) })
    const answer = answers[Math.min(asked.length, answers.length) - 1]
    return Promise.resolve().then(() => answer(String(url), init ?? {}))
  })
  return asked
}
afterEach(() => void jest.restoreAllMocks())

describe('access', () => {
  it('asks for one token however many want it, and again shortly before it ends', async () => {
    const asked = answering(
      () => token('one', 900),
      () => token('two', 900),
    )
    const access = new Access(URL, demoTokens)
    expect(await Promise.all([access.token(), access.token(), access.token()])).toEqual(['one', 'one', 'one'])
    expect(asked).toHaveLength(1)
    const now = Date.now()
    jest.spyOn(Date, 'now').mockReturnValue(now + 871_000)
    expect(await access.token()).toBe('two')
  })

  it('a key of one’s own goes as HTTP Basic to the broker; a refused one leaves the key before in use', async () => {
    const asked = answering(
      () => token('demo'),
      () => problem('wrong-secret', 401),
      () => token('mine'),
    )
    const access = new Access(URL, demoTokens)
    await access.token()
    await expect(access.use(keyTokens(URL, 'k:1', 'x'))).rejects.toMatchObject({
      kind: 'wrong-secret',
      status: 401,
    })
    expect([access.source === demoTokens, await access.token()]).toEqual([true, 'demo'])
    await access.use(keyTokens(URL, 'k:1', 's:s'))
    expect([access.source === demoTokens, access.keyId, await access.token()]).toEqual([false, 'k:1', 'mine'])
    // RFC 6749, 2.3.1: both parts are form-encoded before they are joined, so a colon cannot split them wrongly.
    expect(atob(asked[2].headers.get('Authorization')!.slice(6))).toBe('k%3A1:s%3As')
  })

  it('a broker that is not there is told from one that refuses', async () => {
    answering(() => Promise.reject(new TypeError('refused')))
    await expect(new Access(URL, demoTokens).token()).rejects.toMatchObject({ kind: 'unreachable' })
  })
})

describe('requests', () => {
  const broker = () => new Broker(new Access(URL, demoTokens))

  it('a token that is not taken any more is renewed once', async () => {
    const asked = answering(
      () => token('old'),
      () => problem('expired-token', 401),
      () => token('new'),
      () => ok([]),
    )
    expect(await broker().orders()).toEqual([])
    expect(asked.map((a) => a.headers.get('Authorization'))).toEqual([null, 'Bearer old', null, 'Bearer new'])
  })

  it('a second refusal is told, not tried for ever', async () => {
    const asked = answering(
      () => token('a'),
      () => problem('unknown-token', 401),
      () => token('b'),
      () => problem('unknown-token', 401),
    )
    await expect(broker().orders()).rejects.toMatchObject({
      kind: 'unknown-token',
      detail: 'What is wrong.',
      mend: 'What to do.',
    })
    expect(asked).toHaveLength(4)
  })

  it('an answer that is not what the API describes is not believed', async () => {
    answering(
      () => token('a'),
      () => ok([{ symbol: 'OSPRY', quantity: 'many' }]),
    )
    await expect(broker().positions()).rejects.toThrow()
  })

  it('an error without a document still says something', async () => {
    const told = await problemOf(new Response('<html>', { status: 502 }))
    expect(told).toBeInstanceOf(BrokerProblem)
    expect(told).toMatchObject({ kind: 'unknown', title: 'Answer 502', status: 502 })
  })
})

describe('a stream', () => {
  const events = (...parts: string[]) =>
    new Response(
      new ReadableStream<Uint8Array>({
        start(out) {
          for (const part of parts) out.enqueue(new TextEncoder().encode(part))
          out.close()
        },
      }),
    )

  it('is taken up again after the last event that came, also where a message came in pieces', async () => {
    const asked = answering(
      () => token('t'),
      () =>
        events(
          'id: 1\nevent: executionReport\ndata: {"a"',
          ':1}\n\nid: 2\nevent: executionReport\nda',
          'ta: {"a":2}\n\n',
          ': still here\n\n',
        ),
      () => Promise.reject(new TypeError('gone')),
      () => events('id: 3\nevent: executionReport\ndata: {"a":3}\n\n'),
      () => new Promise<Response>(() => undefined),
    )
    const got: StreamEvent[] = []
    const away: unknown[] = []
    await new Promise<void>((resolve) => {
      const stop = follow(new Broker(new Access(URL, demoTokens)), '/executions/stream', {
        event: (event) => {
          got.push(event)
          if (got.length === 3) {
            stop()
            resolve()
          }
        },
        there: () => undefined,
        away: (error) => away.push(error),
      })
    })
    expect(got.map((e) => [e.id, e.event, e.data])).toEqual([
      ['1', 'executionReport', '{"a":1}'],
      ['2', 'executionReport', '{"a":2}'],
      ['3', 'executionReport', '{"a":3}'],
    ])
    expect(asked.slice(1).map((a) => a.headers.get('Last-Event-ID'))).toEqual([null, '2', '2'])
    expect(away).toHaveLength(2)
    expect(away[1]).toMatchObject({ kind: 'unreachable' })
  })
})
