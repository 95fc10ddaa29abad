import { type Order } from '../core/orders/model'
import { expect, oneWindow, test } from './app'

test('a broker that dies is named in words; the page takes up again by itself and nothing is lost', async ({
  page,
  demo,
}) => {
  await demo.request('POST', '/paper/orders', {
    clOrdId: 'before-the-crash',
    symbol: 'TERNW',
    side: 'Buy',
    orderQty: 7,
    ordType: 'Limit',
    price: 1.5,
    timeInForce: 'GoodTillCancel',
  })
  await page.goto(`${demo.url}/desk`)
  const header = page.getByRole('banner')
  await expect(header).toContainText('Brackwater is open')
  demo.killBroker()
  await expect(header.getByRole('alert')).toContainText(
    'The broker does not answer. It is asked again by itself.',
  )
  // What was known stays in view.
  await expect(page.getByRole('grid', { name: 'Orders' })).toContainText('TERNW')
  await expect(header).toContainText('Brackwater is open')
  const orders = await demo.request<Order[]>('GET', '/paper/orders')
  expect(orders.filter((o) => o.clOrdId === 'before-the-crash')).toHaveLength(1)
})

test('an order that met a dead broker is told as not sent, and can be sent again', async ({ page, demo }) => {
  await page.goto(`${demo.url}/look/KIPPR`)
  await page.getByRole('button', { name: 'Make it an order' }).click()
  const ticket = page.getByRole('region', { name: 'Order ticket' })
  await expect(ticket).toContainText('Costs')
  await page.route(/\/paper\/orders$/, (route) =>
    route.request().method() === 'POST' ? route.abort() : route.continue(),
  )
  await ticket.getByRole('button', { name: 'Send to paper' }).click()
  await expect(ticket.getByRole('alert')).toContainText('Broker not there. The broker does not answer.')
  await page.unroute(/\/paper\/orders$/)
  await ticket.getByRole('button', { name: 'Send to paper' }).click()
  await expect(ticket).toContainText(/Sent to paper PAPER-1: New/)
})

test.describe('standing down and the clock', () => {
  const shares = oneWindow('/desk', { own: true })

  test('standing down says what it will do, does it, and is lifted by hand', async () => {
    const { page, demo } = shares
    await demo.request('POST', '/paper/orders', {
      clOrdId: 'to-stand-down',
      symbol: 'HERRG',
      side: 'Buy',
      orderQty: 10,
      ordType: 'Market',
      exits: { stop: { percent: 3 }, target: { percent: 7 } },
    })
    await page.getByRole('button', { name: 'Stand down' }).click()
    const dialog = page.getByRole('dialog', { name: 'Stand down' })
    await expect(dialog).toContainText('the broker refuses orders of paper PAPER-1 that open something')
    await expect(dialog).toContainText('No working order has to be canceled; 2 that close or protect stay.')
    await dialog.getByLabel('Stand down from').selectOption('HERRG alone')
    await expect(dialog).toContainText('that open something in HERRG, whoever sends them')
    await dialog.getByLabel(/Also close \d+ position/).check()
    await dialog.getByRole('button', { name: 'Stand down' }).click()
    await expect(page.getByText(/Stood down: \d+ orders? canceled/)).toBeVisible()
    await expect.poll(() => demo.request<unknown[]>('GET', '/paper/orders?which=working')).toHaveLength(0)
    const order = { clOrdId: 'refused', symbol: 'HERRG', side: 'Buy', orderQty: 1, ordType: 'Market' }
    const refused = await demo.request<{ type: string }>('POST', '/paper/orders', order).catch(String)
    expect(JSON.stringify(refused)).toContain('stands down')
    // What it does not stand down from goes on.
    const other = { ...order, clOrdId: 'taken', symbol: 'OSPRY' }
    expect(await demo.request('POST', '/paper/orders', other)).toMatchObject({ symbol: 'OSPRY' })
    await page.getByRole('button', { name: 'Stood down' }).click()
    await page.getByRole('dialog', { name: 'Stood down' }).getByRole('button', { name: 'Lift it' }).click()
    await expect(page.getByRole('button', { name: 'Stand down' })).toBeVisible()
    await demo.request('POST', '/paper/orders', order)
  })

  test('the market’s clock can be paused, stepped and sent to the next open', async () => {
    const { page, demo } = shares
    const header = page.getByRole('banner')
    await header.getByRole('button', { name: /is open/ }).click()
    await page.getByRole('button', { name: 'Pause' }).click()
    await expect(header).toContainText('the market is paused')
    const before = (await demo.request<{ now: string }>('GET', '/paper/market-time')).now
    await page.getByRole('button', { name: 'Step 1 min' }).click()
    await expect
      .poll(
        async () =>
          Date.parse((await demo.request<{ now: string }>('GET', '/paper/market-time')).now) -
          Date.parse(before),
      )
      .toBe(60_000)
    await page.getByRole('button', { name: 'Run' }).click()
    await page.getByRole('button', { name: 'Jump to next open' }).click()
    await expect(header).toContainText('Brackwater is open, 09:30')
  })
})
