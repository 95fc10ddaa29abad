import { type Order } from '../core/orders/model'
import { expect, find, oneWindow, test, writePutSpread } from './app'

test.describe('options, groups and gates', () => {
  const shares = oneWindow('/desk', { own: true })

  test('a group of orders is one line, and is closed together', async () => {
    const { page, demo } = shares
    for (const [symbol, side] of [
      ['GANET', 'Buy'],
      ['OSPRY', 'SellShort'],
    ])
      await demo.request('POST', '/paper/orders', {
        ...{ clOrdId: `pair-${symbol}`, symbol, side, orderQty: 10, ordType: 'Market', group: 'pair' },
      })
    const groups = page.getByRole('table', { name: 'Groups' })
    await expect(groups).toContainText('long 10 GANET, short 10 OSPRY')
    await groups.getByRole('button', { name: 'Close all of it' }).click()
    await expect(groups).toContainText('closed')
  })

  test('option legs are written as a sentence, checked, sent as one order, and stand on the desk', async () => {
    const { page, demo } = shares
    await demo.request('POST', '/paper/accounts', {
      ...{ account: 'SPREADS', cash: 20_000, currency: 'USD', margin: true, optionLevel: 3 },
    })
    await find(page, 'OSPRY')
    const ticket = await writePutSpread(page, '12', '11')
    await expect(ticket.getByLabel('The net price is')).toHaveValue('received')
    // The account has option level 2: the check that fails comes first, with its mend.
    await ticket.getByRole('button', { name: 'Check only' }).click()
    const checks = ticket.getByRole('list', { name: 'Checks' })
    await expect(checks.getByRole('listitem').first()).toContainText('needs option level 3')
    await page.getByRole('button', { name: /^Paper/ }).click()
    await page.getByRole('menuitem', { name: 'Accounts …' }).click()
    await page.getByRole('button', { name: 'Use SPREADS' }).click()
    await ticket.getByLabel('Order type').selectOption('Market')
    await ticket.getByRole('button', { name: /Send to/ }).click()
    await expect(ticket).toContainText('Filled')
    const [order] = await demo.request<Order[]>('GET', '/paper/orders?account=SPREADS')
    expect(order.legs).toMatchObject([{ legSide: 'SellShort' }, { legSide: 'Buy' }])
    await page.getByRole('link', { name: 'Desk' }).click()
    const held = page.getByRole('grid', { name: 'Positions' })
    await expect(held.getByRole('row', { name: /12\.00 put/ })).toContainText('short 1')
    await expect(held.getByRole('row', { name: /11\.00 put/ })).toContainText('long 1')
    await page.getByRole('button', { name: /^Paper/ }).click()
    await page.getByRole('menuitem', { name: 'Accounts …' }).click()
    await page.getByRole('button', { name: 'Use PAPER-1' }).click()
    await ticket.getByRole('button', { name: 'Close' }).click()
    await expect(ticket).toBeHidden()
  })

  test('gates stop what they do not let pass, for every sender; what asks first is approved on the desk', async () => {
    const { page, demo } = shares
    await page.getByRole('button', { name: /Gates/ }).click()
    const panel = page.getByRole('dialog', { name: /Gates of/ })
    for (const name of [/largest order/, /ask first/]) {
      await panel.getByRole('button', { name: 'Add a gate' }).click()
      await page.getByRole('menuitem', { name }).click()
    }
    await panel.getByLabel('Rule of gate 1').fill('order value <=')
    await panel.getByRole('button', { name: 'Set the gates' }).click()
    await expect(panel.getByLabel('Rule of gate 1')).toHaveAttribute('aria-invalid', 'true')
    await panel.getByLabel('Rule of gate 1').fill('order value <= 2000')
    await panel.getByLabel('Rule of gate 2').fill('order value <= 500')
    await panel.getByRole('button', { name: 'Set the gates' }).click()
    await expect(page.getByRole('button', { name: 'Gates (2)' })).toBeVisible()

    // A script with a key of its own: refused above the one, waiting above the other.
    const script = await demo.keyFor(['see-account', 'send-orders'])
    const send = <T>(clOrdId: string, orderQty: number) =>
      script<T>('POST', '/paper/orders', {
        clOrdId,
        symbol: 'OSPRY',
        side: 'Buy',
        orderQty,
        ordType: 'Market',
      })
    expect((await send<{ detail: string }>('huge', 500)).detail).toContain('largest order')
    expect((await send<Order>('large', 100)).ordStatus).toBe('PendingNew')
    const orders = page.getByRole('grid', { name: 'Orders' })
    await expect(orders).toContainText('ask first: waits until another key approves it')
    await orders.getByRole('button', { name: /^Approve/ }).click()
    await expect(orders.getByRole('row', { name: /Buy 100 Market/ })).toContainText('Filled')
  })
})
