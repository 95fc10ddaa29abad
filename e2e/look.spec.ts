import { type Order } from '../core/orders/model'
import { type Page } from '@playwright/test'
import { type Demo, expect, oneWindow, scan, summary, test } from './app'

const chart = /Chart of \d+ bars/

async function opened(page: Page, demo: Demo): Promise<void> {
  await page.goto(`${demo.url}/look/OSPRY`)
  await expect(page.getByRole('img', { name: chart })).toBeVisible()
}

test.describe('one chart', () => {
  const shares = oneWindow('/look/OSPRY')

  test('every timeframe draws, says its last bar, and marks the rule on it', async () => {
    const { page } = shares
    for (const [frame, bar] of [
      ['1 week', /^In the week from Mon 16 Mar 2026 it opened/],
      ['1 hour', /^On Mon 16 Mar 2026, \d\d:30 it opened/],
      ['15 min', /^On Mon 16 Mar 2026, \d\d:(00|15|30|45) it opened/],
      ['1 min', /^On Mon 16 Mar 2026, \d\d:\d\d it opened/],
      ['1 day', /^On Mon 16 Mar 2026 it opened .* stands at/],
    ] as const) {
      await page.getByRole('button', { name: /^Bars: / }).click()
      await page.getByRole('button', { name: frame, exact: true }).click()
      await expect(page.getByRole('button', { name: `Bars: ${frame}`, exact: true })).toBeVisible()
      await expect(page.getByTestId('bar')).toHaveText(bar)
      await expect(page.getByRole('img', { name: chart })).toBeVisible()
    }
  })

  test('the crosshair tells the figures of its bar; a past hit comes into view', async () => {
    const { page } = shares
    const image = page.getByRole('img', { name: chart })
    const box = (await image.boundingBox())!
    await page.mouse.move(box.x + box.width * 0.3, box.y + box.height * 0.3)
    const bar = page.getByTestId('bar')
    await expect(bar).toHaveText(/^On \w{3} \d+ \w{3} 2025 it opened at [\d.]+, rose to .* closed at/)
    const told = await bar.innerText()
    await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.3)
    await expect(bar).not.toHaveText(told)
    const hits = page.getByRole('region', { name: 'Past hits' })
    const oldest = hits.getByRole('group', { name: 'Past hits' })
    await oldest.focus()
    await page.keyboard.press('End')
    const when = await hits.getByRole('row', { selected: true }).getByRole('gridcell').first().innerText()
    await page.mouse.move(box.x + box.width * 0.4, box.y + box.height * 0.3)
    await expect(bar).toContainText(when.slice(-4))
  })

  test('arrow keys move the chart, plus and minus zoom it', async () => {
    const { page } = shares
    const image = page.getByRole('img', { name: chart })
    await image.focus()
    const before = await image.screenshot()
    const changed = (from: Buffer) => async () => !(await image.screenshot()).equals(from)
    await page.keyboard.press('ArrowLeft')
    await expect.poll(changed(before)).toBe(true)
    const moved = await image.screenshot()
    await page.keyboard.press('+')
    await expect.poll(changed(moved)).toBe(true)
  })
})

test('a ticket in dollars and ticks, short, limited: each reading beside the others; then set off by a price', async ({
  page,
  demo,
}) => {
  await opened(page, demo)
  await page.getByRole('button', { name: 'Make it an order' }).click()
  const ticket = page.getByRole('region', { name: 'Order ticket' })
  await ticket.getByLabel('Direction').selectOption('short')
  await ticket.getByLabel('Size is measured in').selectOption('shares')
  await ticket.getByLabel('Size', { exact: true }).fill('20')
  await ticket.getByLabel('Order type').selectOption('Limit')
  await expect(ticket.getByRole('status')).toContainText('Fill in the limit price')
  await ticket.getByLabel('Limit price').fill('50')
  await ticket.getByLabel('Good for').selectOption('GoodTillCancel')
  await ticket.getByLabel('Stop is measured in').selectOption('ticks')
  await ticket.getByLabel('Stop', { exact: true }).fill('150')
  await ticket.getByLabel('Target is measured in').selectOption('price')
  await ticket.getByLabel('Target', { exact: true }).fill('46.5')
  await expect(ticket).toContainText('51.50 · +3.00 %')
  await expect(ticket).toContainText('−7.00 % · 350 ticks')
  await expect(ticket).toContainText('Brings in$1,000.00 − $0.10')
  await ticket.getByLabel('Limit price').fill('50.005')
  await ticket.getByRole('button', { name: 'Check only' }).click()
  await expect(ticket).toContainText('It would be refused; nothing was sent')
  await expect(ticket).toContainText('Use 50.00 or 50.01.')
  await ticket.getByRole('button', { name: 'Send to paper' }).click()
  await expect(ticket.getByRole('alert')).toContainText('Price off the tick')
  await ticket.getByLabel('Limit price').fill('50')
  await ticket.getByRole('button', { name: 'Send to paper' }).click()
  await expect(ticket).toContainText('Sent to paper PAPER-1: New')
  await expect(ticket.getByRole('button', { name: 'Another order like it' })).toBeVisible()
  const orders = await demo.request<Order[]>('GET', '/paper/orders')
  expect(
    orders.filter((o) => o.ordStatus !== 'Rejected' && o.symbol === 'OSPRY' && o.side === 'SellShort'),
  ).toMatchObject([
    {
      side: 'SellShort',
      ordType: 'Limit',
      price: 50,
      timeInForce: 'GoodTillCancel',
      exits: { stop: { ticks: 150 }, target: { price: 46.5 } },
    },
  ])
  await ticket.getByRole('button', { name: 'Another order like it' }).click()
  await ticket.getByLabel('Target', { exact: true }).fill('')
  await ticket.getByLabel('Good for').selectOption('FillOrKill')
  await ticket.getByLabel('Order type').selectOption('StopLimit')
  // What waits for a price cannot be for this moment only.
  await expect(ticket.getByLabel('Good for')).toHaveValue('Day')
  await expect(ticket.getByRole('status')).toContainText('Fill in the stop price')
  await ticket.getByLabel('Stop price').fill('8')
  await ticket.getByLabel('Limit price').fill('7.9')
  await ticket.getByRole('button', { name: 'Send to paper' }).click()
  await expect(ticket).toContainText('Sent to paper PAPER-1: New')
  await expect
    .poll(async () =>
      (await demo.request<Order[]>('GET', '/paper/orders')).map((o) => [o.ordType, o.stopPx, o.price]),
    )
    .toContainEqual(['StopLimit', 8, 7.9])
})

test('the rule of Find is drawn here, and a change there shows here', async ({ page, demo }) => {
  await page.goto(`${demo.url}/find`)
  await expect(summary(page)).toBeVisible()
  await scan(page, 'rsi(9) crosses above 50')
  await expect(summary(page)).toContainText('of 193 meet it')
  await page.keyboard.press('Escape')
  await page.getByRole('link', { name: 'Look' }).click()
  await expect(page.getByRole('link', { name: 'rsi(9) crosses above 50' })).toBeVisible()
  await expect(page.getByText(/^rsi\(9\)/).first()).toBeVisible()
})
