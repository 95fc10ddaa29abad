import { describe, expect, it } from '@jest/globals'
import { readCsv } from '@/core/formats/csv'
import { type Desk, deskFor, problem, Wall } from '@/tests/broker'
import { makeApp } from './app'
import { Pace } from './pace'

describe('answers for spreadsheets and for programs that poll', () => {
  const wall = new Wall()
  let desk: Desk
  deskFor(wall, (made) => (desk = made))

  const csv = async (path: string, token = desk.token) => {
    const answer = await desk.call('GET', path, undefined, token)
    expect([answer.status, answer.headers.get('content-type')]).toEqual([200, 'text/csv; charset=utf-8'])
    return readCsv(await answer.text())
  }

  it('every list is had as CSV, an object as one row, what lies within by dots', async () => {
    for (let k = 0; k < 3; k++)
      await desk.send({ clOrdId: `c-${k}`, symbol: 'OSPRY', orderQty: 1, exits: { stop: { percent: 5 } } })
    await desk.run(wall, 2)
    const orders = await csv('/paper/orders?format=csv')
    expect(orders.columns).toEqual(
      expect.arrayContaining(['clOrdId', 'symbol', 'exits.stop.percent', 'avgPx']),
    )
    expect(orders.rows).toHaveLength(6)
    expect((await csv('/paper/account?format=csv')).columns).toContain('rules.optionLevel')
    expect((await csv('/paper/positions?format=csv')).rows).toHaveLength(1)
    expect((await csv('/paper/quotes?symbols=OSPRY,GANET&format=csv')).rows).toHaveLength(2)
    expect((await csv('/paper/executions?limit=3&format=csv')).columns).toContain('execType')
    await problem(desk.call('GET', '/paper/orders?format=xml'), 400, 'malformed-request')
  })

  it('one that is cut says so in its last line, and where the rest is', async () => {
    const answer = await desk.call('GET', '/paper/orders?limit=2&format=csv')
    const last = (await answer.text()).trimEnd().split('\r\n').at(-1)!
    expect(last).toMatch(/^# cut: the newest 2 orders.*\/paper\/orders\?limit=2&format=csv&cursor=O/)
  })

  it('a token in a URL reads CSV, never more, and is withdrawn as a key is', async () => {
    const made = await desk.call('POST', '/paper/csv-tokens', { label: 'my sheet' })
    const { csvToken, keyId } = (await made.json()) as { csvToken: string; keyId: string }
    const elsewhere = { label: 'my sheet', accounts: ['NOWHERE'] }
    await problem(desk.call('POST', '/paper/csv-tokens', elsewhere), 409, 'not-possible')
    const ask = (method: string, path: string) =>
      desk.call(method, `${path}csvToken=${csvToken}`, undefined, '')
    const answer = await ask('GET', '/paper/orders?limit=2&format=csv&')
    expect(answer.status).toBe(200)
    expect(await answer.text()).not.toContain(csvToken)
    expect(answer.headers.get('link')).not.toContain(csvToken)
    await problem(ask('GET', '/paper/orders?'), 403, 'missing-scope')
    await problem(ask('DELETE', '/paper/orders?which=working&'), 403, 'missing-scope')
    await problem(ask('GET', '/live/orders?format=csv&'), 401, 'unknown-token')
    const listed = await desk.get<{ keyId: string; forUrl?: boolean }[]>('/paper/keys')
    expect(listed.find((one) => one.keyId === keyId)!.forUrl).toBe(true)
    await problem(
      desk.exchange({ client_id: keyId, client_secret: csvToken.split('.')[1] }),
      401,
      'wrong-secret',
    )
    expect((await desk.call('DELETE', `/paper/keys/${keyId}`)).status).toBe(200)
    await problem(ask('GET', '/paper/orders?format=csv&'), 401, 'unknown-token')
  })

  it('what has not changed is told as such', async () => {
    const first = await desk.call('GET', '/paper/orders')
    const tag = first.headers.get('etag')!
    const again = () =>
      desk.app.request('/paper/orders', {
        headers: { Authorization: `Bearer ${desk.token}`, 'If-None-Match': tag },
      })
    expect((await again()).status).toBe(304)
    await desk.send({ clOrdId: 'new', symbol: 'OSPRY', orderQty: 1 })
    const changed = await again()
    expect([changed.status, changed.headers.get('etag') === tag]).toEqual([200, false])
  })

  it('a key that asks too fast is told when to come back, others are not held up', async () => {
    let now = 0
    const pace = new Pace({ perSecond: 2, atOnce: 3 }, () => now)
    const app = makeApp({ worlds: desk.worlds, tokens: desk.tokens, pace })
    const ask = (token: string) =>
      app.request('/paper/account', { headers: { Authorization: `Bearer ${token}` } })
    for (const left of [2, 1, 0]) {
      const answer = await ask(desk.token)
      expect(answer.headers.get('ratelimit')).toBe(
        `limit=3, remaining=${left}, reset=${Math.ceil((3 - left) / 2)}`,
      )
    }
    const refused = await ask(desk.token)
    expect(refused.headers.get('retry-after')).toBe('1')
    await problem(refused, 429, 'too-many-requests')
    const other = await desk.newKey(['see-account'])
    expect((await ask(await desk.askToken(other.keyId, other.secret))).status).toBe(200)
    now += 500
    expect((await ask(desk.token)).status).toBe(200)
    await problem(ask(desk.token), 429, 'too-many-requests')
  })
})
