import { describe, expect, it } from '@jest/globals'
import { type Action } from '@/core/market/adjust'
import { type Account, type AccountDay, type StatementLine } from '@/core/orders/views'
import { type Desk, deskFor, Wall } from '@/tests/broker'

describe('the days of an account', () => {
  const wall = new Wall()
  let desk: Desk
  let folder: string
  deskFor(wall, (made, dataDir) => ([desk, folder] = [made, dataDir]))
  const move = (text: string) => desk.world.setClock({ moveTo: Date.parse(text) })

  it('dividends come to who holds on the ex-date, and are paid by who is short', async () => {
    const { markets } = desk.world
    const until = Date.parse('2026-05-15T12:00:00-03:00')
    const from = '2026-03-18'
    const pays = (at: number) =>
      markets.home.listing
        .map((listed) => ({
          listed,
          action: markets
            .actionsOf(listed, until)
            .find((one: Action) => one.kind === 'Dividend' && one.exDate >= from) as
            | Extract<Action, { kind: 'Dividend' }>
            | undefined,
        }))
        .filter((one) => one.action && markets.borrowableOf(one.listed, '2026-03-16') === undefined)[at]
    const [long, short] = [pays(0), pays(1)]
    await desk.send({ clOrdId: 'long', symbol: long.listed.symbol, orderQty: 100 })
    await desk.send({ clOrdId: 'short', symbol: short.listed.symbol, side: 'SellShort', orderQty: 50 })
    await desk.run(wall, 10)
    await move('2026-05-15T12:00:00-03:00')
    const lines = await desk.get<StatementLine[]>('/paper/statement')
    const got = (symbol: string) => lines.find((one) => one.kind === 'Dividend' && one.symbol === symbol)!
    expect(got(long.listed.symbol)).toMatchObject({
      date: long.action!.exDate,
      amount: 100 * long.action!.amount,
    })
    expect(got(short.listed.symbol)).toMatchObject({
      date: short.action!.exDate,
      amount: -50 * short.action!.amount,
    })
  })

  it('what is borrowed costs interest for each day, on 360 of them', async () => {
    const before = await desk.get<Account>('/paper/account')
    await desk.send({ clOrdId: 'much', symbol: 'HERRG', orderQty: Math.floor((before.cash + 20_000) / 9.5) })
    await move('2026-05-15T15:00:00-03:00')
    const owes = -(await desk.get<Account>('/paper/account')).cash
    expect(owes).toBeGreaterThan(5_000)
    await move('2026-05-15T17:00:00-03:00')
    const line = (await desk.get<StatementLine[]>('/paper/statement')).findLast(
      (one) => one.kind === 'Interest',
    )!
    // Friday to Monday: three days.
    expect(line.amount).toBeCloseTo((-owes * 0.06 * 3) / 360, 2)
  })

  it('the statement adds up to the cash, also of a part of it and as CSV', async () => {
    const { cash } = await desk.get<Account>('/paper/account')
    const lines = await desk.get<StatementLine[]>('/paper/statement')
    expect(lines[0]).toMatchObject({ kind: 'Opening', cash: 50_000 })
    expect(lines.at(-1)!.cash).toBe(cash)
    for (let i = 1; i < lines.length; i++)
      expect(lines[i].cash).toBeCloseTo(lines[i - 1].cash + lines[i].amount, 4)
    const part = await desk.get<StatementLine[]>('/paper/statement?from=2026-05-15')
    expect(part[0].cash).toBe(lines.findLast((one) => one.date < '2026-05-15')!.cash)
    expect(part.at(-1)).toEqual(lines.at(-1))
    const csv = await (await desk.call('GET', '/paper/statement?format=csv')).text()
    expect(csv.split('\r\n')[0]).toContain('at,date,kind')
  })

  it('every session’s close is kept, and stands after a restart', async () => {
    const days = await desk.get<AccountDay[]>('/paper/history')
    expect(days.map(({ date }) => date)).toEqual(
      desk.world.market
        .sessionsBegunBy(desk.world.clock.now())
        .map(({ date }) => date)
        .filter((date) => date >= '2026-03-16'),
    )
    expect(days.at(-1)!.cash).toBe((await desk.get<Account>('/paper/account')).cash)
    await desk.reopen(folder, wall)
    expect(await desk.get<AccountDay[]>('/paper/history')).toEqual(days)
    expect((await desk.get<AccountDay[]>('/paper/history?from=2026-05-14')).length).toBe(2)
  })

  it('equity below the maintenance margin is a margin call that says what is missing', async () => {
    const { book } = desk.world.main
    const before = await desk.get<Account>('/paper/account')
    expect(before.marginCall).toBeUndefined()
    const lost = Math.round((before.equity - before.maintenanceMargin + 100) * 10_000)
    book.cashE4 -= lost
    const { marginCall } = await desk.get<Account>('/paper/account')
    expect(marginCall!.missing).toBeCloseTo(100, 2)
    book.cashE4 += lost
  })
})
