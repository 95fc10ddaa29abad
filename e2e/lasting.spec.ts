import { type Order } from '../core/orders/model'
import { expect, section, test, write } from './app'

test('what was sent stands as sent wherever its ticket is shown, and after the page is loaded again', async ({
  page,
  own: demo,
}) => {
  const orders = async () => (await demo.request<Order[]>('GET', '/paper/orders?which=all')).length
  await page.goto(`${demo.url}/look/OSPRY`)
  await page.getByRole('button', { name: 'Make it an order' }).waitFor()
  await page.keyboard.press('o')
  const ticket = page.getByRole('region', { name: 'Order ticket' })
  await ticket.getByLabel('Stop', { exact: true }).fill('')
  await ticket.getByLabel('Target', { exact: true }).fill('')
  await ticket.getByLabel('Size is measured in').selectOption('shares')
  await ticket.getByLabel('Size', { exact: true }).fill('7')
  await ticket.getByLabel('Size', { exact: true }).press('ControlOrMeta+Enter')
  await expect(ticket).toContainText('Sent to paper PAPER-1: New')
  await section(page, 'Desk')
  await expect(page).toHaveTitle('Paper PAPER-1 · Desk · Fleet Heron')
  await expect(ticket).toContainText('Sent to paper PAPER-1: New')
  await expect(ticket.getByRole('button', { name: /^Send/ })).toHaveCount(0)
  await expect(ticket.getByLabel('Size', { exact: true })).toBeDisabled()
  await ticket.focus()
  await page.keyboard.press('ControlOrMeta+Enter')
  await page.reload()
  await expect(page).toHaveTitle('Paper PAPER-1 · Desk · Fleet Heron')
  await expect(ticket).toContainText('Sent to paper PAPER-1: New')
  await ticket.focus()
  await page.keyboard.press('ControlOrMeta+Enter')
  // Another is begun on purpose.
  await ticket.getByRole('button', { name: 'Another order like it' }).click()
  await expect(ticket.getByRole('button', { name: 'Send to paper PAPER-1' })).toBeEnabled()
  expect(await orders()).toBe(1)
})

test('plans stay with their account, go on after a reload, and every tab tells the truth of them', async ({
  page,
  own: demo,
}) => {
  await page.goto(`${demo.url}/plan`)
  await page.getByRole('button', { name: '+ Fast over slow' }).click()
  const region = (of: typeof page) => of.getByRole('region', { name: 'Plan', exact: true })
  await write(region(page).getByRole('textbox', { name: 'Condition' }), 'close > lowest(low, 40)')
  await region(page).getByRole('button', { name: 'Arm in paper PAPER-1 …' }).click()
  const arming = page.getByRole('dialog')
  await expect(arming).toContainText('Its condition holds now for')
  await arming.getByLabel('What holds now counts as beginning now').check()
  // The page is loaded again while the plan is still being begun: it has no bars yet.
  await page.route(/\/bars\?/, () => {})
  await arming.getByRole('button', { name: 'Arm in paper PAPER-1' }).click()
  await expect(region(page)).toContainText('armed in paper PAPER-1: acts on its own')
  await page.unroute(/\/bars\?/)
  await page.reload()
  await expect(page.getByText('The tab was closed or loaded again: Fast over slow went on')).toBeVisible()
  await expect(region(page)).toContainText('armed in paper PAPER-1: acts on its own')
  await expect(page).toHaveTitle('Paper PAPER-1 · 1 armed here · Plan · Fleet Heron')
  // It still takes what held when it was begun.
  const entries = async () =>
    (await demo.request<Order[]>('GET', '/paper/orders?which=all')).filter(({ role }) => role === 'Entry')
  await expect.poll(async () => (await entries()).length).toBeGreaterThan(0)

  // Another account is looked at: the plan goes on in its own, and the headline counts it.
  await demo.request('POST', '/paper/accounts', { account: 'SECOND', cash: 20_000 })
  await page.getByRole('button', { name: /^Paper environment/ }).click()
  await page.getByRole('menuitem', { name: 'Accounts …' }).click()
  await page.getByRole('button', { name: 'Use SECOND' }).click()
  const headline = page.getByRole('banner').first()
  await expect(headline).toContainText('Paper SECOND')
  await expect(headline).toContainText('1 plan armed, in paper PAPER-1')
  await expect(region(page)).toContainText('armed in paper PAPER-1: acts on its own')

  // Loaded again, the tab is still about that account, and the plan has gone on.
  await page.reload()
  await expect(headline).toContainText('Paper SECOND')
  await expect(page).toHaveTitle('Paper SECOND · 1 armed here · Plan · Fleet Heron')
  await expect(page.getByText('The tab was closed or loaded again: Fast over slow went on')).toBeVisible()
  await expect(region(page)).toContainText('armed in paper PAPER-1: acts on its own')
  await expect(region(page)).toContainText(/· fired \d\d:\d\d/)

  // A second tab says where it runs.
  const second = await page.context().newPage()
  await second.goto(`${demo.url}/plan`)
  await expect(second.getByRole('banner')).toContainText('1 plan armed, in paper PAPER-1, in another tab')
  await expect(second.getByRole('navigation', { name: 'Plans' })).toContainText(
    /Armed.*Fast over slow v1, in another tab/,
  )
  await expect(region(second)).toContainText(
    /Armed in paper PAPER-1, version 1, in the tab that was opened at \d\d:\d\d/,
  )
  await second.close()

  // After a quarter of an hour without a sign of life it asks.
  await page.goto(`${demo.url}/icon.svg`)
  await page.evaluate(async () => {
    const open = indexedDB.open('fleet-heron')
    const db = await new Promise<IDBDatabase>((resolve) => (open.onsuccess = () => resolve(open.result)))
    const change = db.transaction('settings', 'readwrite')
    const rows = change.objectStore('settings')
    rows.get('begun.fast-over-slow').onsuccess = ({ target }) => {
      const row = (target as IDBRequest<{ name: string; value: { alive: number } }>).result
      rows.put({ ...row, value: { ...row.value, alive: Date.now() - 16 * 60_000 } })
    }
    await new Promise((resolve) => (change.oncomplete = resolve))
    db.close()
  })
  await page.goto(`${demo.url}/plan`)
  await page.getByRole('button', { name: 'Fast over slow waits for you' }).click()
  const asked = page.getByRole('dialog', { name: 'Plans that do not run now' })
  await expect(asked).toContainText('was armed in paper PAPER-1 until')
  await expect(asked).toContainText('more than 15 minutes')
  await asked.getByRole('button', { name: 'Go on in paper PAPER-1' }).click()
  await expect(region(page)).toContainText('armed in paper PAPER-1: acts on its own')
  await expect(page.getByRole('button', { name: 'waits for you' })).toHaveCount(0)
})

test('a large sheet is sent from any section, stopped, gone on with; a corrected row is no order sent before', async ({
  page,
  own: demo,
}) => {
  const many = 120
  const file = (first: string) => ({
    ...{ name: 'many.csv', mimeType: 'text/csv' },
    buffer: Buffer.from(
      `symbol,side,quantity,type,price,id\n${first}\n${Array.from(
        { length: many - 1 },
        (_, i) => `${['OSPRY', 'GANET', 'HERRG', 'KIPPR'][i % 4]},buy,1,limit,1.5,x-${i}`,
      ).join('\n')}`,
    ),
  })
  await page.goto(`${demo.url}/sheet`)
  await page.getByLabel('Choose a file').setInputFiles(file('TERNW,buy,10,limit,1.5,fix-me'))
  await page.getByRole('button', { name: `Send ${many} to paper PAPER-1` }).click()
  const asked = page.getByRole('dialog', { name: `Send ${many} rows to paper PAPER-1?` })
  await expect(asked).toContainText(/Together they cost \$[\d,.]+ and take about a second/)
  // The second request is not answered before the page has been told to stop.
  let stopped = () => {}
  const untilStopped = new Promise<void>((resolve) => (stopped = resolve))
  let requests = 0
  await page.route('**/orders/batch', async (route) => {
    if (++requests > 1) await untilStopped
    await route.continue()
  })
  await page.evaluate(countWrites)
  await asked.getByRole('button', { name: `Send ${many}`, exact: true }).click()
  await section(page, 'Desk')
  await expect(page.getByRole('banner')).toContainText(`sending 25 of ${many} rows`)
  await section(page, 'Sheet')
  // Written as it stood when sending began, and not again with each answer.
  expect(await page.evaluate(() => sessionStorage.getItem('writes'))).toBe('1')
  await page.getByRole('button', { name: 'Stop sending' }).click()
  stopped()
  await expect(page.getByText('You stopped it. The rows that are left can be sent later.')).toBeVisible()
  await expect(page.getByText('50 sent')).toBeVisible()
  // The file outlives a reload, and only what is left is sent.
  await page.reload()
  await expect(page.getByText(/\d+ (sent|sent before)/).first()).toBeVisible()
  await page.getByRole('button', { name: /^Send \d+ to paper PAPER-1/ }).click()
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Send \d+$/ })
    .click()
  await expect(page.getByRole('button', { name: 'Nothing to send' })).toBeVisible()
  const orders = await demo.request<Order[]>('GET', '/paper/orders?which=all')
  expect([orders.length, new Set(orders.map(({ clOrdId }) => clOrdId)).size]).toEqual([many, many])

  // The same file with its first row corrected.
  await page.getByRole('button', { name: 'Another file' }).click()
  await page.getByLabel('Choose a file').setInputFiles(file('TERNW,buy,20,limit,1.5,fix-me'))
  const rows = page.getByRole('table', { name: 'Rows of the file' })
  await expect(rows).toContainText('Another order stands under this id: Buy 10 TERNW Limit 1.50')
  await page.getByRole('button', { name: 'Change the order of line 2' }).click()
  await expect(rows).not.toContainText('Another order stands under this id')
  const changed = await demo.request<Order[]>('GET', '/paper/orders?which=all&symbol=TERNW')
  expect(changed).toMatchObject([{ orderQty: 20, side: 'Buy' }])
})

/** Counts in the storage of the tab how often the sheet is written to it. */
function countWrites(): void {
  const set = Storage.prototype.setItem
  set.call(sessionStorage, 'writes', '0')
  Storage.prototype.setItem = function (name, value) {
    if (name === 'heron-sheet')
      set.call(sessionStorage, 'writes', String(Number(sessionStorage.getItem('writes')) + 1))
    set.call(this, name, value)
  }
}
