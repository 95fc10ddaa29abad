import { type Page } from '@playwright/test'
import { type Order } from '../core/orders/model'
import { type Position } from '../core/orders/views'
import { barsFile, expect, oneWindow, scan, section, summary, test, toData } from './app'

const file = (name: string, text: string) => ({ name, mimeType: 'text/csv', buffer: Buffer.from(text) })

/** Minute bars of one session, stamped in Halifax time without saying so. */
function minutes(first: number): string {
  const rows = Array.from({ length: 60 }, (_, i) => {
    const time = `2026-03-13 ${String(10 + Math.floor(i / 60)).padStart(2, '0')}:${String(i % 60).padStart(2, '0')}`
    const price = (first + i / 10).toFixed(2)
    return `${time};${price};${price};${price};${price};${100 + i}`
  })
  return `Time;Open;High;Low;Close;Volume\n${rows.join('\n')}\n`
}

const bring = (page: Page, ...files: ReturnType<typeof file>[]) =>
  page.getByLabel('Choose CSV files').setInputFiles(files)

test.describe('fresh bars and own ones', () => {
  const shares = oneWindow('/find')

  test('scans on quarter hours and on the day so far are as fresh as the market', async () => {
    const { page } = shares
    await expect(summary(page)).toBeVisible()
    for (const [every, soFar, asOf] of [
      ['15 min', false, /completed bars, as of Mon 16 Mar 2026, 1\d:(00|15|30|45)/],
      ['daily', true, /the bar so far, as of Mon 16 Mar 2026, 1\d:\d\d/],
    ] as const) {
      await page.getByRole('button', { name: /^Bars/ }).click()
      await page.getByRole('button', { name: every, exact: true }).click()
      if (soFar) await page.getByLabel('with the bar that is still growing').check({ force: true })
      await page.keyboard.press('Escape')
      await scan(page, 'volume > 0 and close > on(1 day, sma(close, 3))')
      await expect(summary(page)).toContainText(/[1-9]\d* of 193 meet it/)
      await expect(summary(page)).toContainText(asOf)
    }
  })

  test('a file a security, semicolons, times without a zone: read in the zone that is chosen', async () => {
    const { page } = shares
    await toData(page)
    await bring(page, file('beck.csv', minutes(20)), file('rill.csv', minutes(40)))
    await expect(page.getByText('2 files: 2 securities, 120 good lines, 0 left out')).toBeVisible()
    const kept = page.getByRole('table', { name: 'Securities in the files' })
    await expect(kept).toContainText(/BECK60\s*1 min/)
    await page.getByLabel('Times without a zone are in').first().click()
    await page.getByRole('option', { name: 'UTC' }).click()
    await page.getByLabel('Keep them as').fill('Streams')
    await page.getByRole('button', { name: 'Keep 2 and scan them' }).click()
    await scan(page, 'close > 25')
    await expect(summary(page)).toContainText('2 of 2 meet it')
    await scan(page, 'close > on(15 min, sma(close, 2)) and close > 40')
    await expect(summary(page)).toContainText('1 of 2 meet it')
    await expect(page.getByRole('grid')).toContainText('RILL')
  })

  test('files that cannot be one set, and files that are none, say why', async () => {
    const { page } = shares
    await toData(page)
    await bring(page, file('valley.csv', barsFile()), file('ford.csv', minutes(20)))
    await expect(page.getByRole('button', { name: /^Keep/ })).toBeDisabled()
    await expect(page.getByText(/bars of different lengths \(1 day, 1 min\)/)).toBeVisible()
    await page.getByRole('button', { name: 'Leave it' }).click()
    await bring(page, file('poem.csv', 'Of cabbages\nand kings\n'))
    await expect(page.getByText('Choose the column for date, open, high, low, close.')).toBeVisible()
    await page.getByRole('button', { name: 'Leave it' }).click()
    await bring(page, file('torn.csv', 'date,open\n"2026-01-01,5\n'))
    await expect(page.locator('p[role=alert]')).toContainText('never closed')
  })

  test('a set can be brought again under its name, and removed after a second question', async () => {
    const { page } = shares
    await toData(page)
    await bring(page, file('valley.csv', barsFile()))
    await page.getByRole('button', { name: 'Keep 3 and scan them' }).click()
    await scan(page, 'close > 0')
    await expect(page.getByRole('grid')).toContainText('RILL')
    await toData(page)
    await bring(page, file('valley.csv', barsFile().replaceAll('RILL', 'FORD')))
    await page.getByRole('button', { name: 'Keep 3 and scan them' }).click()
    await scan(page, 'close > 0')
    await expect(page.getByRole('grid')).toContainText('FORD')
    await expect(page.getByRole('grid')).not.toContainText('RILL')
    await toData(page)
    const sets = page.getByRole('table', { name: 'Sets of own data' })
    const row = sets.getByRole('row', { name: /valley/ })
    await row.getByRole('button', { name: 'Remove' }).click()
    await row.getByRole('button', { name: 'Remove 3 securities' }).click()
    await expect(page.getByText('valley was removed.')).toBeVisible()
    await section(page, 'Find')
    await page.getByRole('button', { name: 'Scan', exact: true }).click()
    await expect(page.getByText('That set of own data was removed. Choose another universe.')).toBeVisible()
  })
})

test('days later the stop or the target has closed the position, and the other is canceled', async ({
  page,
  own: demo,
}) => {
  await demo.request('POST', '/paper/orders', {
    clOrdId: 'held-for-days',
    symbol: 'BUOYS',
    side: 'Buy',
    orderQty: 40,
    ordType: 'Market',
    exits: { stop: { percent: 1 }, target: { percent: 1 } },
  })
  const exits = async () =>
    (await demo.request<Order[]>('GET', '/paper/orders?which=all')).filter((o) =>
      o.clOrdId.startsWith('held-for-days/'),
    )
  await expect.poll(async () => (await exits()).map((o) => o.ordStatus).join()).toBe('New,New')
  for (let day = 0; day < 12 && (await exits()).every((o) => o.ordStatus === 'New'); day++)
    await demo.request('POST', '/paper/market-time', { jumpTo: 'close' })
  expect((await exits()).map((o) => o.ordStatus).sort()).toEqual(['Canceled', 'Filled'])
  const positions = await demo.request<Position[]>('GET', '/paper/positions')
  expect(positions.filter((p) => p.symbol === 'BUOYS' && p.quantity !== 0)).toEqual([])
  await page.goto(`${demo.url}/desk`)
  await expect(page.getByRole('banner')).toContainText('Brackwater is closed')
  await page.goto(`${demo.url}/look/BUOYS`)
  await page.getByRole('button', { name: 'Make it an order' }).click()
  const ticket = page.getByRole('region', { name: 'Order ticket' })
  await ticket.getByRole('button', { name: 'Check only' }).click()
  await expect(ticket).toContainText('Wait for the open, or send a Limit or Stop order')
})
