import { describe, expect, it } from '@jest/globals'
import { type ExecutionReport, type Order } from '@/core/orders/model'
import { type Account } from '@/core/orders/views'
import { type Desk, deskFor, problem, Wall } from '@/tests/broker'

let desk: Desk
let folder: string
const wall = new Wall()

deskFor(wall, (opened, dataDir) => {
  desk = opened
  folder = dataDir
})

const post = async <T>(path: string, body: unknown): Promise<T> =>
  (await (await desk.call('POST', path, body)).json()) as T
const order = (clOrdId: string, more: object = {}) => ({
  ...{ clOrdId, symbol: 'OSPRY', side: 'Buy', orderQty: 10, ordType: 'Market' },
  ...more,
})

describe('accounts', () => {
  it('have rules of their own, and nothing of each other', async () => {
    const opened = await post<Account>('/paper/accounts', { account: 'CASH-1', cash: 10_000, margin: false })
    expect(opened).toMatchObject({
      account: 'CASH-1',
      cash: 10_000,
      buyingPower: 10_000,
      rules: { currency: 'USD', margin: false, short: false },
    })
    await problem(desk.call('POST', '/paper/accounts', { account: 'CASH-1', cash: 1 }), 409, 'not-possible')
    const short = order('s', { account: 'CASH-1', side: 'SellShort' })
    expect(
      (await problem(desk.call('POST', '/paper/orders', short), 422, 'shares-not-held')).detail,
    ).toContain('may not sell short')
    const { ask } = (await desk.get<{ ask: number }[]>('/paper/quotes?symbols=OSPRY'))[0]
    const most = Math.floor(10_000 / ask)
    const more = order('m', { account: 'CASH-1', orderQty: most + 1 })
    await problem(desk.call('POST', '/paper/orders', more), 422, 'not-enough-buying-power')
    const taken = order('m', { account: 'CASH-1', orderQty: most - 100 })
    expect((await desk.call('POST', '/paper/orders', taken)).status).toBe(201)
    await desk.run(wall, 5)
    const positions = (of: string) => desk.get<{ quantity: number }[]>(`/paper/positions?account=${of}`)
    expect(await positions('CASH-1')).toMatchObject([{ symbol: 'OSPRY', quantity: most - 100 }])
    expect(await positions('PAPER-1')).toEqual([])
    // Each account counts its own client order ids, orders and reports.
    expect((await post<Order>('/paper/orders', order('m'))).orderId).toBe('O1')
    expect(await desk.get('/paper/orders?account=CASH-1')).toHaveLength(3)
    await problem(desk.call('GET', '/paper/account?account=NONE'), 404, 'unknown-account')
  })

  it('of another currency trade what is traded in it', async () => {
    await post('/paper/accounts', { account: 'NORTH-1', cash: 20_000, currency: 'EUR' })
    const listed = await desk.get<{ symbol: string; venue: string; kind: string }[]>('/paper/securities')
    const symbol = listed.find((one) => one.venue === 'XSKR' && one.kind === 'Stock')!.symbol
    const here = order('n', { account: 'NORTH-1', symbol })
    expect((await desk.call('POST', '/paper/orders', here)).status).toBe(201)
    await desk.run(wall, 5)
    const held = await desk.get<Order[]>('/paper/orders?account=NORTH-1')
    expect(held[0].ordStatus).toBe('Filled')
    // In the venue's own time.
    expect(held[0].transactTime).toMatch(/\+02:00$/)
  })

  it('come back after a restart, live ones apart from paper ones', async () => {
    const before = await desk.get<Account[]>('/paper/accounts')
    await desk.reopen(folder, wall)
    const again = desk.worlds
    expect([...again.paper.accounts.keys()]).toEqual(before.map((one) => one.account))
    for (const { account, cash } of before)
      expect(again.paper.accounts.get(account)!.book.cashE4 / 10_000).toBe(cash)
    expect([...again.live.accounts.keys()]).toEqual(['LIVE-1'])
    expect(again.live.clock).toBe(again.paper.clock)
  })
})

describe('a rehearsal', () => {
  it('begins where it is told to, beside the market that runs on, and never passes it', async () => {
    const begun = await desk.call('POST', '/rehearsals', { id: 'march', start: '2026-03-02' })
    expect(await begun.json()).toMatchObject({
      base: '/rehearsals/march',
      epoch: 1,
      rehearsal: true,
      now: '2026-03-02T09:30:00-04:00',
      running: false,
    })
    await desk.call('POST', '/rehearsals/march/market-time', { step: 600 })
    const sent = await post<Order>('/rehearsals/march/orders', order('r-1'))
    expect(sent.transactTime).toBe('2026-03-02T09:40:00-04:00')
    await desk.call('POST', '/rehearsals/march/market-time', { step: 60 })
    expect(await desk.get('/rehearsals/march/orders')).toMatchObject([{ ordStatus: 'Filled' }])
    expect((await desk.get<{ at: string }[]>('/rehearsals/march/quotes?symbols=OSPRY'))[0].at).toMatch(
      /^2026-03-02T09:41/,
    )
    expect((await desk.get<{ now: string }>('/paper/market-time')).now).toMatch(/^2026-03-16/)
    expect((await desk.get<Order[]>('/paper/orders?clOrdId=r-1')).length).toBe(0)
    const on = (step: number) => desk.call('POST', '/rehearsals/march/market-time', { step })
    for (const week of [604_800, 604_800]) expect((await on(week)).status).toBe(200)
    const ahead = on(86_400)
    expect((await problem(ahead, 409, 'not-possible')).detail).toContain('present')
  })

  it('is put back: what came after did not happen, and event ids of before are refused', async () => {
    const [{ seq }] = await desk.get<ExecutionReport[]>('/rehearsals/march/executions')
    const id = `${desk.worlds.rehearsal('march')!.id}.1.PAPER-1.${seq}`
    const listen = (world: string, lastId: string) =>
      desk.app.request(`/${world}/executions/stream`, {
        headers: { Authorization: `Bearer ${desk.token}`, 'Last-Event-ID': lastId },
      })
    const open = await listen('rehearsals/march', id)
    expect(open.status).toBe(200)
    await open.body!.cancel()
    const back = await post<object>('/rehearsals/march/put-back', { to: '2026-03-02T09:35' })
    expect(back).toMatchObject({ epoch: 2, now: '2026-03-02T09:35:00-04:00', running: false })
    expect(await desk.get('/rehearsals/march/orders?which=all')).toEqual([])
    expect((await problem(listen('rehearsals/march', id), 400, 'foreign-event')).detail).toContain('epoch 1')
    expect((await problem(listen('paper', id), 400, 'foreign-event')).detail).toContain('another world')
    await problem(desk.call('POST', '/paper/put-back', { to: '2026-03-02' }), 409, 'not-possible')
    await problem(desk.call('POST', '/rehearsals/march/put-back', { to: '2026-03-05' }), 409, 'not-possible')
    // The same id again, in what happens now instead.
    expect((await desk.call('POST', '/rehearsals/march/orders', order('r-1'))).status).toBe(201)
  })

  it('comes back after a restart in its epoch, and is taken away whole', async () => {
    await desk.reopen(folder, wall)
    const found = desk.worlds.rehearsal('march')!
    expect([found.epoch, found.main.reports.length]).toEqual([2, 2])
    expect((await desk.call('DELETE', '/rehearsals/march')).status).toBe(200)
    await problem(desk.call('GET', '/rehearsals/march/orders'), 404, 'not-found')
    await problem(desk.call('DELETE', '/paper'), 409, 'not-possible')
  })

  it('needs a start that has been, and an id that can stand in a path', async () => {
    for (const [about, why] of [
      [{ id: 'ahead', start: '2027-01-04' }, 'has passed'],
      [{ id: 'early', start: '1999-01-04' }, 'market begins'],
      [{ id: 'A b', start: '2026-03-02' }, 'small letters'],
    ] as const)
      expect((await problem(desk.call('POST', '/rehearsals', about), 409, 'not-possible')).detail).toContain(
        why,
      )
    await problem(desk.call('POST', '/rehearsals', { id: 'x', start: 'soon' }), 400, 'malformed-request')
  })
})

it('a path without its world says how it begins', async () => {
  const lost = await problem(desk.call('GET', '/orders'), 404, 'not-found')
  expect(lost.mend).toContain('/paper/orders')
  await problem(desk.call('GET', '/paper/health'), 404, 'not-found')
})

describe('lots and settled cash', () => {
  it('what is held by lot adds up to the position; a sale settles on the next session', async () => {
    for (const id of ['lot-1', 'lot-2']) {
      await post('/paper/orders', order(id, { symbol: 'GANET', orderQty: 3, account: 'PAPER-1' }))
      await desk.run(wall, 30)
    }
    const lots =
      await desk.get<{ id: string; quantity: number; price: number; unrealized: number }[]>(
        '/paper/lots?symbol=ganet',
      )
    const [position] = (await desk.get<{ symbol: string; unrealized: number }[]>('/paper/positions')).filter(
      (one) => one.symbol === 'GANET',
    )
    expect(lots.reduce((sum, lot) => sum + lot.quantity, 0)).toBe(6)
    const unrealized = lots.reduce((sum, lot) => sum + lot.unrealized, 0)
    expect(unrealized).toBeCloseTo(position.unrealized, 4)
    const csv = await (await desk.call('GET', '/paper/lots?format=csv&symbol=GANET')).text()
    expect(csv.split('\r\n')[0]).toBe('id,symbol,opened,quantity,price,last,unrealized')
    const sell = { symbol: 'GANET', side: 'Sell', orderQty: 3 }
    const odd = desk.call('POST', '/paper/orders', order('lot-4', { ...sell, lot: 'E999999' }))
    expect((await problem(odd, 422, 'shares-not-held')).detail).toContain('No lot')
    await post('/paper/orders', order('lot-3', { ...sell, lot: lots.at(-1)!.id }))
    await desk.run(wall, 30)
    const left = await desk.get<{ id: string }[]>('/paper/lots?symbol=GANET')
    expect(left.map((lot) => lot.id)).toEqual([lots[0].id])
    const account = await desk.get<Account>('/paper/account')
    expect(account.settledCash).not.toBe(account.cash)
    await desk.call('POST', '/paper/market-time', { jumpTo: 'open' })
    const next = await desk.get<Account>('/paper/account')
    expect(next.settledCash).toBe(next.cash)
  })
})
