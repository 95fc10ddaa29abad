import { type Order } from '../core/orders/model'
import { expect, test } from './app'

test('an order left in parts, one that waits for it, and one that ends with another, all from the ticket', async ({
  page,
  own: demo,
}) => {
  await page.goto(`${demo.url}/look/OSPRY`)
  await page.getByRole('button', { name: 'Make it an order' }).click()
  const ticket = page.getByRole('region', { name: 'Order ticket' })
  await ticket.getByLabel('Size is measured in').selectOption('shares')
  await ticket.getByLabel('Size', { exact: true }).fill('100')
  await ticket.getByLabel('Order type').selectOption('Limit')
  await ticket.getByLabel('Limit price').fill('9.00')
  await ticket.getByRole('button', { name: 'Leave in parts' }).click()
  await ticket.getByLabel('Share of part 1').fill('30')
  await ticket.getByLabel('Target of part 1', { exact: true }).fill('12')
  await ticket.getByLabel('Target of part 1 is measured in').selectOption('price')
  await ticket.getByLabel('A level on the wrong side').selectOption('Refuse')
  await ticket.getByLabel('Stop of part 2 is measured in').selectOption('trail')
  await expect(ticket).toContainText('with the rest 70 % · 70')
  // 30 at 9.00 to 12.00 and 70 from 9.00 to 9.63.
  await expect(ticket.getByText('Gains at its targets').locator('+ dd')).toHaveText('$134.10')
  await ticket.getByRole('button', { name: /Send to/ }).click()
  await expect(ticket).toContainText('Sent to paper')

  await ticket.getByRole('button', { name: 'Another order like it' }).click()
  await ticket.getByLabel('Sent when').selectOption({ label: 'once filled: Buy 100 Limit 9.00 OSPRY' })
  await ticket.getByLabel('Tied to others').selectOption('tied')
  await ticket.getByLabel('Name of the tie').fill('either')
  await ticket.getByRole('button', { name: 'Check only' }).click()
  await expect(ticket.getByRole('list', { name: 'Checks' })).toContainText('waits until desk-OSPRY-')
  await ticket.getByRole('button', { name: /Send to/ }).click()
  await expect(ticket).toContainText('Sent to paper')

  const orders = await demo.request<Order[]>('GET', '/paper/orders')
  const [first, second] = ['New', 'PendingNew'].map((is) =>
    orders.find(({ role, ordStatus }) => role === 'Entry' && ordStatus === is),
  )
  expect(first!.exits).toEqual({
    wrongSide: 'Refuse',
    parts: [
      { share: 30, stop: { percent: 3 }, target: { price: 12 } },
      { stop: { trail: { percent: 3 } }, target: { percent: 7 } },
    ],
  })
  expect(second).toMatchObject({ triggerClOrdId: first!.clOrdId, clOrdLinkId: 'either' })
})
