import { readFileSync } from 'node:fs'
import writeXlsxFile from 'write-excel-file/node'
import { readCsv } from '../core/formats/csv'
import { type Order } from '../core/orders/model'
import { expect, oneWindow, scan, section, summary, test } from './app'
import { type Running } from './running'

const send = (demo: Running, order: object) =>
  demo.request('POST', '/paper/orders', { side: 'Buy', orderQty: 10, ordType: 'Market', ...order })

test.describe('orders', () => {
  const shares = oneWindow('/desk', { own: true })

  test('orders, executions and positions; filters; export of every field', async () => {
    const { page, demo } = shares
    await send(demo, {
      clOrdId: 'desk-a',
      symbol: 'KIPPR',
      exits: { stop: { percent: 3 }, target: { percent: 7 } },
    })
    await send(demo, { clOrdId: 'desk-b', symbol: 'OSPRY', orderQty: 1e6 })
    const orders = page.getByRole('grid', { name: 'Orders' })
    await expect(orders.getByRole('row')).toHaveCount(5)
    await page.getByRole('button', { name: 'refused 1' }).click()
    await expect(orders).toContainText('Not enough buying power')
    await page.getByRole('button', { name: 'working 2' }).click()
    await expect(orders.getByRole('row')).toHaveCount(3)
    await page.getByRole('button', { name: 'all states 4' }).click()
    await page.getByRole('row', { name: /Buy 10 Market/ }).click()
    const story = page.getByRole('region', { name: 'What became of it' })
    await expect(story).toContainText('desk-a')
    await expect(story.getByRole('listitem').last()).toContainText('Filled')

    const exported = async () => {
      await page.getByRole('button', { name: 'Export' }).click()
      const download = page.waitForEvent('download')
      await page.getByRole('menuitem', { name: 'CSV' }).click()
      return readCsv(readFileSync(await (await download).path(), 'utf8'))
    }
    const file = await exported()
    expect(file.columns).toEqual(
      expect.arrayContaining(['clOrdId', 'orderQty', 'stopPx', 'ordStatus', 'avgPx', 'text']),
    )
    expect(file.rows).toHaveLength(4)
    await page.getByRole('button', { name: 'Executions' }).click()
    await expect(page.getByRole('table', { name: 'Executions' })).toContainText('desk-a')
    expect((await exported()).columns).toContain('Client order id')

    // What the account holds is asked of in a rule: it was bought today, so in the day's bar, which still grows.
    await section(page, 'Find')
    await expect(summary(page)).toContainText('of 193 meet it')
    await scan(page, 'shares held = 10')
    await expect(summary(page)).toContainText('0 of 193 meet it · completed bars')
    await page.getByRole('button', { name: /^Bars:/ }).click()
    await page.getByRole('switch', { name: 'with the bar that is still growing' }).click()
    await page.keyboard.press('Escape')
    await expect(summary(page)).toContainText('1 of 193 meet it · the bar so far')
    await expect(page.getByRole('grid', { name: /meet/ }).getByText('KIPPR')).toBeVisible()
  })

  test('a mark on the day rail tells what happened and leads to it', async () => {
    const { page, demo } = shares
    await send(demo, { clOrdId: 'desk-m', symbol: 'KIPPR' })
    await section(page, 'Sheet')
    const mark = page
      .getByRole('complementary', { name: 'Day rail' })
      .getByRole('button', { name: /bought 10 KIPPR at [\d.]+/ })
      .first()
    await mark.click()
    await expect(page).toHaveURL(/\/desk\?order=/)
    await expect(page.getByRole('region', { name: 'What became of it' })).toBeVisible()
  })

  test('a working order is changed where it stands; what cannot be is said, and stays typed', async () => {
    const { page, demo } = shares
    await send(demo, {
      ...{ clOrdId: 'desk-c', symbol: 'KIPPR', ordType: 'Limit', price: 2 },
      timeInForce: 'GoodTillCancel',
    })
    await section(page, 'Desk')
    const orders = page.getByRole('grid', { name: 'Orders' })
    await orders.getByRole('button', { name: 'Change Buy 10 Limit 2.00 KIPPR' }).focus()
    await page.keyboard.press('Enter')
    const form = page.getByRole('form', { name: 'Change KIPPR' })
    await form.getByLabel('Limit price').fill('2.005')
    await page.keyboard.press('Enter')
    await expect(form.getByRole('alert')).toContainText('Use 2.00 or 2.01.')
    await expect(form.getByLabel('Limit price')).toHaveValue('2.005')
    // A limit far through the market is asked about here too, and asked again once it is another.
    await form.getByLabel('Limit price').fill('9000')
    await page.keyboard.press('Enter')
    await expect(form.getByRole('alert')).toContainText(/The limit of 9,000.00 lies .* beyond the ask of/)
    await expect(form.getByRole('button', { name: 'Change it all the same' })).toBeVisible()
    await form.getByLabel('Limit price').fill('2.01')
    await expect(form.getByRole('button', { name: 'Change it', exact: true })).toBeVisible()
    await form.getByLabel('Quantity in all').fill('25')
    await page.keyboard.press('Enter')
    await expect(orders).toContainText('Buy 25 Limit 2.01')
    await expect(orders).toContainText('New → New changed')
    const [order] = await demo.request<Order[]>('GET', '/paper/orders')
    expect(order).toMatchObject({
      origClOrdId: 'desk-c',
      orderQty: 25,
      price: 2.01,
      timeInForce: 'GoodTillCancel',
    })
  })
})

test.describe('files of orders', () => {
  const shares = oneWindow('/sheet')

  test('a file that is none takes nothing away from the one in view', async () => {
    const { page } = shares
    await page
      .getByLabel('Choose a file')
      .setInputFiles({ name: 'empty.csv', mimeType: 'text/csv', buffer: Buffer.from('') })
    await expect(page.locator('p[role=alert]')).toContainText('no header line')
    await page
      .getByLabel('Choose a file')
      .setInputFiles({ name: 'x.csv', mimeType: 'text/csv', buffer: Buffer.from('a,b\n1,2\n') })
    await expect(page.locator('p[role=alert]')).toContainText('no column "symbol"')
  })

  test('a workbook of orders is read, and the template comes as CSV and XLSX', async ({}, info) => {
    const { page } = shares
    const path = info.outputPath('orders.xlsx')
    const cell = (value: string | number) => ({ value, type: typeof value === 'number' ? Number : String })
    await writeXlsxFile(
      [
        ['Ticker', 'Side', 'Qty', 'Type', 'Limit', 'Stop'],
        ['GANET', 'buy', 5, 'limit', 9.5, '40 ticks'],
      ].map((row) => row.map(cell)) as never,
    ).toFile(path)
    await page.getByLabel('Choose a file').setInputFiles(path)
    const rows = page.getByRole('table', { name: 'Rows of the file' })
    await expect(rows.getByRole('row').nth(1)).toContainText(/GANET.*ready/)
    for (const form of ['CSV', 'XLSX']) {
      const download = page.waitForEvent('download')
      await page
        .getByRole('complementary', { name: 'How the file is written' })
        .getByRole('button', { name: form })
        .click()
      const file = await download
      expect(file.suggestedFilename()).toBe(`orders-template.${form.toLowerCase()}`)
      await page.getByRole('button', { name: 'Another file' }).click()
      await page
        .getByLabel('Choose a file')
        .setInputFiles(
          await file
            .path()
            .then((p) => ({ name: file.suggestedFilename(), mimeType: '', buffer: readFileSync(p) })),
        )
      await expect(page.getByText(/\d+ rows/)).toBeVisible()
    }
  })

  test('5,000 rows of orders are priced and shown without a stall', async () => {
    const { page } = shares
    const rows = Array.from(
      { length: 5000 },
      (_, i) => `${['OSPRY', 'GANET', 'HERRG', 'KIPPR'][i % 4]},buy,${1 + (i % 7)},limit,1.5,x-${i}`,
    )
    await page.getByRole('button', { name: 'Another file' }).click()
    await page.getByLabel('Choose a file').setInputFiles({
      name: 'many.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from(`symbol,side,quantity,type,price,id\n${rows.join('\n')}`),
    })
    await expect(page.getByText('5000 rows')).toBeVisible()
    await expect(page.getByRole('table', { name: 'Rows of the file' })).toContainText('ready')
    const drawn = await page.locator('tbody tr').count()
    expect(drawn).toBeLessThan(120)
    await page.getByRole('group', { name: 'Rows of the file' }).evaluate((table) => table.scrollTo(0, 1e7))
    await expect(page.getByRole('cell', { name: '5001', exact: true })).toBeVisible()
  })
})
