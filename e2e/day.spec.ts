import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type BrowserContext, chromium, type Page } from '@playwright/test'
import { barsFile, Demo, expect, scan, section, summary, test } from './app'

/** The trader's whole day in one browser: from a scan to filled paper orders, and back the next morning. */
test('from a scan to a filled paper order, by hand, by script and by spreadsheet, and all of it is kept', async ({
  launchOptions,
}) => {
  test.setTimeout(600_000)
  const demo = new Demo()
  const profile = mkdtempSync(join(tmpdir(), 'heron-profile-'))
  const files = mkdtempSync(join(tmpdir(), 'heron-files-'))
  let context: BrowserContext | undefined
  const openBrowser = async (): Promise<Page> => {
    context = await chromium.launchPersistentContext(profile, {
      ...launchOptions,
      viewport: { width: 1280, height: 800 },
    })
    return context.pages()[0] ?? context.newPage()
  }
  try {
    await demo.start()
    let page = await openBrowser()
    await page.goto(demo.url)
    const header = page.getByRole('banner')

    await test.step('the headline says that the paper market is open', async () => {
      await expect(header).toContainText(/Paper.*Brackwater is open, 10:4\d, closes in 5 h/s)
      await expect(header).toContainText('equity $50,000.00')
    })

    await test.step('a rule finds securities and says why', async () => {
      await scan(
        page,
        'close crosses above highest(earlier(close, 1 bar), 20) and volume > 1.5 * sma(volume, 20)',
      )
      await expect(summary(page)).toContainText(
        /[1-9]\d* of 193 meet it · completed bars, as of the close of Fri 13 Mar 2026, all up to date/,
      )
      const why = page.getByRole('complementary', { name: 'The security in view' })
      await expect(why.getByRole('listitem')).toHaveText([/close [\d.]+ crossed above/, /volume .* is above/])
    })

    const symbol = await page.getByRole('row', { selected: true }).locator('td').nth(1).innerText()

    await test.step('the security opens by keyboard, with the rule’s measures and past hits', async () => {
      await page.getByRole('group', { name: 'Securities that meet the rule' }).focus()
      await page.keyboard.press('Enter')
      await expect(page).toHaveURL(new RegExp(`/look/${symbol}`))
      await expect(page.getByRole('img', { name: /Chart of 128\d bars/ })).toBeVisible()
      await expect(page.getByText('highest(earlier(close, 1 bar), 20)').last()).toBeVisible()
      await expect(page.getByText(/came true \d+ times/).first()).toBeVisible()
      await expect(page.getByRole('region', { name: 'Past hits' }).getByRole('row').nth(1)).toBeVisible()
    })

    const ticket = page.getByRole('region', { name: 'Order ticket' })
    await test.step('a dry run shows what would be sent and why each check passes', async () => {
      await page.keyboard.press('o')
      await expect(ticket.getByLabel('Size', { exact: true })).toHaveValue('0.8')
      await expect(ticket.getByLabel('Stop', { exact: true })).toHaveValue('3')
      await expect(ticket.getByLabel('Target', { exact: true })).toHaveValue('7')
      await expect(ticket).toContainText(/Loses at the stop\$39\d\.\d\d, 0\.(79|80) % of equity/)
      await ticket.getByRole('button', { name: 'Check only' }).click()
      await expect(ticket).toContainText('It would be taken; nothing was sent')
      await expect(ticket.getByRole('list', { name: 'Checks' }).getByRole('listitem')).toHaveCount(8)
      await expect(ticket.locator('pre')).toContainText('"percent": 3')
      expect(await demo.request<unknown[]>('GET', '/paper/orders')).toHaveLength(0)
    })

    await test.step('sent to paper: New, then Filled, stop and target resting at the broker', async () => {
      await page.keyboard.press('ControlOrMeta+Enter')
      await expect(ticket).toContainText(/Sent to paper PAPER-1: New → .*Filled [\d.]+/)
      await expect(ticket).toContainText(/Target [\d.]+: PendingNew → New/)
      await expect(ticket).toContainText(/Stop [\d.]+: PendingNew → New/)
      // The key that sent it does not send it twice.
      await page.keyboard.press('ControlOrMeta+Enter')
      await page.keyboard.press('Escape')
      await expect(ticket).toBeHidden()
    })

    await test.step('the desk shows orders, position and a profit that moves with the market', async () => {
      await page.keyboard.press('d')
      const orders = page.getByRole('grid', { name: 'Orders' })
      await expect(orders.getByRole('row')).toHaveCount(4)
      await expect(orders).toContainText('cancels with the stop')
      const position = page.getByRole('grid', { name: 'Positions' }).getByRole('row').nth(1)
      await expect(position).toContainText('at the broker')
      const profit = position.getByRole('gridcell').nth(5)
      const before = await profit.innerText()
      // Five minutes on at once, since a quiet security may stand still for a while.
      await demo.request('POST', '/paper/market-time', { step: 300 })
      await expect(profit).not.toHaveText(before)
    })

    await test.step('the Python script does the same, and the desk shows it', async () => {
      expect(await demo.script()).toContain('Dry run: nothing was sent')
      expect(await demo.script('--send')).toContain('outcome: Filled')
      await expect(page.getByRole('grid', { name: 'Orders' })).toContainText('from a script')
    })

    await test.step('a spreadsheet is checked cell by cell, sent once, and not a second time', async () => {
      const sheet = join(files, 'monday.csv')
      writeFileSync(
        sheet,
        'symbol,side,quantity,type,price,stop,target\nHERRG,buy,50,market,,2%,5%\nGANET,buy,10,limit,9.505,,\nNOSUCH,buy,1,,,,\nOSPRY,buy,many,,,,\n',
      )
      await section(page, 'Sheet')
      await page.getByLabel('Choose a file').setInputFiles(sheet)
      const rows = page.getByRole('table', { name: 'Rows of the file' })
      await expect(rows).toContainText('price 9.505 is off the tick')
      await expect(rows).toContainText('not listed on any venue here')
      await expect(rows).toContainText('write 100, 0.8% risk or 10% equity')
      await page.getByRole('button', { name: 'Send 1 to paper' }).click()
      await page.getByRole('dialog').getByRole('button', { name: 'Send 1', exact: true }).click()
      await expect(rows.getByRole('row').nth(1)).toContainText(/Filled [\d.]+/)
      await page.getByRole('button', { name: 'Another file' }).click()
      await page.getByLabel('Choose a file').setInputFiles(sheet)
      await expect(page.getByText('1 sent before')).toBeVisible()
      await expect(page.getByRole('button', { name: 'Nothing to send' })).toBeDisabled()
      const sent = await demo.request<{ symbol: string; role: string }[]>('GET', '/paper/orders')
      expect(sent.filter((o) => o.symbol === 'HERRG' && o.role === 'Entry')).toHaveLength(1)
    })

    await test.step('own bars come from a CSV file, with a column to correct, and scan with the same rule', async () => {
      const own = join(files, 'valley.csv')
      writeFileSync(own, barsFile())
      await page.goto(`${demo.url}/data`)
      await page.getByLabel('Choose CSV files').setInputFiles(own)
      // "Session" is taken for the time, "Settle" for the close; the trader changes the open, and back.
      await expect(page.getByText(/3 securities, \d+ good lines, 2 left out/)).toBeVisible()
      await expect(page.getByRole('table', { name: 'Lines left out' })).toContainText(
        '"someday" is not a date or time',
      )
      await page.getByLabel('volume', { exact: true }).first().click()
      await page.getByRole('option', { name: 'Settle' }).click()
      await page.getByLabel('volume', { exact: true }).first().click()
      await page.getByRole('option', { name: 'Vol' }).click()
      await page.getByRole('button', { name: 'Keep 3 and scan them' }).click()
      await expect(page.getByRole('button', { name: 'Universe: my own data, valley' })).toBeVisible()
      await scan(page, 'close > sma(close, 20)')
      await expect(summary(page)).toContainText(/[1-3] of 3 meet it/)
      await page.getByRole('group', { name: 'Securities that meet the rule' }).focus()
      await page.keyboard.press('Enter')
      await expect(page.getByRole('img', { name: /Chart of \d+ bars/ })).toBeVisible()
      await page.goBack()
    })

    await test.step('the scan is saved', async () => {
      await page.getByRole('button', { name: 'Save the scan' }).click()
      await page.getByLabel('Name of the scan').fill('Valley above its month')
      await page.getByRole('button', { name: 'Save', exact: true }).click()
      await expect(page.getByRole('button', { name: 'Saved scans (1)' })).toBeVisible()
    })

    const kept = await demo.request<unknown[]>('GET', '/paper/orders')
    await test.step('browser closed, server restarted: everything is still there', async () => {
      await context!.close()
      await demo.stop()
      await demo.start()
      page = await openBrowser()
      await page.goto(demo.url)
      await expect(page.getByRole('button', { name: 'Saved scans (1)' })).toBeVisible()
      await expect(page.getByRole('button', { name: 'Universe: my own data, valley' })).toBeVisible()
      await expect(summary(page)).toContainText(/[1-3] of 3 meet it/)
      await page.keyboard.press('Escape')
      await section(page, 'Desk')
      await expect(page.getByRole('grid', { name: 'Positions' })).toContainText(symbol)
      await expect(page.getByRole('grid', { name: 'Positions' })).toContainText('HERRG')
      const now = await demo.request<{ clOrdId: string }[]>('GET', '/paper/orders')
      expect(now.map((o) => o.clOrdId)).toEqual((kept as { clOrdId: string }[]).map((o) => o.clOrdId))
    })
  } finally {
    await context?.close().catch(() => undefined)
    await demo.stop()
    demo.remove()
    rmSync(profile, { recursive: true, force: true })
    rmSync(files, { recursive: true, force: true })
  }
})
