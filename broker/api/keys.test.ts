import { describe, expect, it } from '@jest/globals'
import { SCOPES } from '@/core/orders/access'
import { type Desk, deskFor, problem, Wall } from '@/tests/broker'

let desk: Desk
const wall = new Wall()

deskFor(wall, (opened) => (desk = opened))

interface Made {
  keyId: string
  secret: string
  [more: string]: unknown
}

const make = (about: object, token = desk.token, world = 'paper') =>
  desk.call('POST', `/${world}/keys`, { label: 'n', scopes: ['see-market'], ...about }, token)
const made = async (about: object): Promise<Made> => (await (await make(about)).json()) as Made
const tokenOf = ({ keyId, secret }: Made) => desk.askToken(keyId, secret)
const ask = ({ keyId, secret }: { keyId: string; secret: string }, world = 'paper') =>
  desk.exchange({ client_id: keyId, client_secret: secret }, {}, world)

describe('a key hands on at most what it has', () => {
  it('only one with manage-keys makes any, and of its own scopes', async () => {
    const sender = await desk.newKey(['send-orders'])
    const token = await desk.askToken(sender.keyId, sender.secret)
    await problem(make({}, token), 403, 'missing-scope')
    await problem(make({ scopes: [...SCOPES] }, token), 403, 'missing-scope')
    const maker = await desk.newKey(['manage-keys', 'see-market'])
    const makers = await desk.askToken(maker.keyId, maker.secret)
    expect((await make({}, makers)).status).toBe(201)
    const more = await problem(
      make({ scopes: ['see-market', 'send-orders'] }, makers),
      403,
      'beyond-own-rights',
    )
    expect(more.detail).toContain('the scope send-orders')
    await problem(make({}, makers, 'live'), 403, 'other-environment')
  })

  it('a token of fewer scopes than its key hands on no more than the token', async () => {
    const whole = await desk.newKey()
    const answer = await desk.exchange({
      client_id: whole.keyId,
      client_secret: whole.secret,
      scope: 'manage-keys see-market',
    })
    const { access_token } = (await answer.json()) as { access_token: string }
    await problem(make({ scopes: ['send-orders'] }, access_token), 403, 'beyond-own-rights')
  })

  it('nor more accounts, or prices of more venues', async () => {
    const scopes = ['manage-keys', 'see-market'] as const
    const token = await tokenOf(await made({ scopes, accounts: ['PAPER-1'], venues: ['XBKW'] }))
    expect((await make({}, token)).status).toBe(201)
    for (const [about, named] of [
      [{ accounts: 'all' }, 'all accounts'],
      [{ accounts: ['PAPER-2'] }, 'the account PAPER-2'],
      [{ venues: ['XSKR'] }, 'the venue XSKR'],
    ] as const)
      expect((await problem(make(about, token), 403, 'beyond-own-rights')).detail).toContain(named)
    const opened = desk.call('POST', '/paper/accounts', { account: 'PAPER-9', cash: 1 }, token)
    await problem(opened, 403, 'beyond-own-rights')
  })
})

describe('what a key may do', () => {
  it('whoami tells key, environment, scopes, accounts and rights', async () => {
    const key = await made({ label: 'prices only', venues: ['XBKW'], accounts: ['PAPER-1'] })
    const token = await tokenOf(key)
    const told = (await (await desk.call('GET', '/paper/whoami', undefined, token)).json()) as object
    expect(told).toMatchObject({
      key: { keyId: key.keyId, label: 'prices only', lastUse: new Date(wall.at).toISOString() },
      world: { name: 'paper', epoch: 1 },
      environment: 'paper',
      standIn: true,
      scopes: ['see-market'],
      account: 'PAPER-1',
      accounts: ['PAPER-1'],
      rights: { XBKW: 'real-time', XSKR: 'none' },
    })
    expect(JSON.stringify(told)).not.toMatch(/secret|hash|salt/)
  })

  it('sees no prices of a venue that it has no right to, and is told so by name', async () => {
    const token = await tokenOf(await made({ venues: ['XBKW'] }))
    const listed = await desk.get<{ symbol: string; venue: string }[]>('/paper/securities')
    const north = listed.find((one) => one.venue === 'XSKR')!.symbol
    for (const path of [
      `/paper/quotes?symbols=${north}`,
      `/paper/securities/${north}/bars?every=1%20day`,
      `/paper/bars?every=1%20day&symbols=${north}`,
      `/paper/quotes/stream?symbols=${north}`,
    ]) {
      const refused = await problem(desk.call('GET', path, undefined, token), 403, 'no-market-data-right')
      expect([refused.detail, refused.mend].join(' ')).toMatch(/XSKR.*XBKW/)
    }
    const all = (await (await desk.call('GET', '/paper/quotes', undefined, token)).json()) as object[]
    expect(all).toHaveLength(listed.filter((one) => one.venue === 'XBKW').length)
  })

  it('is of one environment: the other says so, before and after a token', async () => {
    const key = await made({ scopes: ['send-orders'] })
    await problem(ask(key, 'live'), 403, 'other-environment')
    const token = await tokenOf(key)
    await problem(desk.call('GET', '/live/account', undefined, token), 403, 'other-environment')
    const live = await desk.newKey([...SCOPES], 'live')
    const lives = await desk.askToken(live.keyId, live.secret, 'live')
    const order = { clOrdId: 'live-1', symbol: 'OSPRY', side: 'Buy', orderQty: 1, ordType: 'Market' }
    expect((await desk.call('POST', '/live/orders', order, lives)).status).toBe(201)
    await problem(desk.call('POST', '/paper/orders', order, lives), 403, 'other-environment')
    expect(await desk.get('/paper/orders?which=all')).toEqual([])
  })

  it('ends at its time, and is taken from its addresses only', async () => {
    const expires = new Date(wall.at + 60_000).toISOString()
    const key = await made({ expires })
    const token = await tokenOf(key)
    expect((await desk.call('GET', '/paper/venues', undefined, token)).status).toBe(200)
    wall.pass(61)
    await problem(desk.call('GET', '/paper/venues', undefined, token), 401, 'expired-key')
    await problem(ask(key), 401, 'expired-key')
    await problem(make({ expires }), 400, 'malformed-request')
    const home = await made({ addresses: ['10.1.0.0/16', '::1'] })
    const from = (remoteAddress: string) =>
      desk.app.request(
        '/paper/token',
        {
          method: 'POST',
          body: new URLSearchParams({
            grant_type: 'client_credentials',
            client_id: home.keyId,
            client_secret: home.secret,
          }),
        },
        { incoming: { socket: { remoteAddress } } },
      )
    expect((await from('10.1.200.3')).status).toBe(200)
    expect((await from('::ffff:10.1.0.1')).status).toBe(200)
    expect((await problem(from('10.2.0.1'), 403, 'blocked-address')).detail).toContain('10.2.0.1')
    await problem(make({ addresses: ['10.1.0.0/99'] }), 400, 'malformed-request')
  })

  it('its secret is renewed: the old one and its tokens are not taken any more', async () => {
    const key = await made({ label: 'renewed' })
    const token = await tokenOf(key)
    const after = (await (await desk.call('POST', `/paper/keys/${key.keyId}/renew`)).json()) as Made
    expect(after.secret).not.toBe(key.secret)
    await problem(ask(key), 401, 'wrong-secret')
    const old = await problem(desk.call('GET', '/paper/venues', undefined, token), 401, 'unknown-token')
    expect(old.detail).toContain('was renewed')
    expect((await ask(after)).status).toBe(200)
  })

  it('is withdrawn at once; the last one that manages keys cannot be', async () => {
    const key = await made({})
    const token = await tokenOf(key)
    expect((await desk.call('DELETE', `/paper/keys/${key.keyId}`)).status).toBe(200)
    await problem(desk.call('GET', '/paper/venues', undefined, token), 401, 'unknown-key')
    await problem(ask(key), 401, 'unknown-key')
    await problem(desk.call('DELETE', `/paper/keys/${key.keyId}`), 404, 'not-found')
    const kept = [...desk.world.keys.values()].filter((one) => one.scopes.includes('manage-keys'))
    const last = kept.findIndex(({ keyId }) => desk.token.includes(keyId))
    for (const { keyId } of kept.filter((_, i) => i !== Math.max(0, last)))
      await desk.call('DELETE', `/paper/keys/${keyId}`)
    const left = [...desk.world.keys.values()].filter((one) => one.scopes.includes('manage-keys'))
    if (left.length === 1)
      await problem(desk.call('DELETE', `/paper/keys/${left[0].keyId}`), 409, 'not-possible')
  })
})

it('wrong secrets are looked at ever more slowly, and a right one makes up for them', async () => {
  const { keyId, secret } = await desk.newKey()
  const wrong = () => ask({ keyId, secret: 'x' })
  for (let n = 0; n < 3; n++) await problem(wrong(), 401, 'wrong-secret')
  const slowed = await wrong()
  expect(slowed.headers.get('Retry-After')).toBe('1')
  await problem(slowed, 429, 'too-many-wrong-secrets')
  // A right one waits as long: to tell at once would tell that it is right.
  await problem(ask({ keyId, secret }), 429, 'too-many-wrong-secrets')
  wall.pass(1)
  await problem(wrong(), 401, 'wrong-secret')
  expect((await wrong()).headers.get('Retry-After')).toBe('2')
  wall.pass(2)
  expect((await ask({ keyId, secret })).status).toBe(200)
  await problem(wrong(), 401, 'wrong-secret')
})
