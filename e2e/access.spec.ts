import { readFileSync } from 'node:fs'
import { readCsv } from '../core/formats/csv'
import { type Order } from '../core/orders/model'
import { expect, oneWindow, test } from './app'

test.describe('accounts and keys', () => {
  const shares = oneWindow('/desk', { own: true })

  test('another account has its own rules and money; what is ordered there stands there', async () => {
    const { page, demo } = shares
    const menu = page.getByRole('button', { name: /^Paper/ })
    await menu.click()
    await page.getByRole('menuitem', { name: 'Accounts …' }).click()
    const panel = page.getByRole('dialog', { name: 'Accounts on paper' })
    await panel.getByLabel('Name', { exact: true }).fill('cash-1')
    await panel.getByLabel('Cash to begin with').fill('9000')
    await panel.getByLabel('Margin: half is lent').uncheck()
    await expect(panel.getByLabel('May sell short')).toBeDisabled()
    await panel.getByRole('button', { name: 'Open the account' }).click()
    await panel.getByRole('button', { name: 'Use CASH-1' }).click()
    await expect(menu).toHaveText('Paper CASH-1')
    const side = page.getByRole('complementary', { name: 'Order and account' })
    await expect(side).toContainText('cash only · sells nothing short')
    await expect(side).toContainText('$9,000.00')
    await demo.request('POST', '/paper/orders', {
      ...{ clOrdId: 'in-cash', symbol: 'OSPRY', side: 'Buy', orderQty: 7, ordType: 'Market' },
      account: 'CASH-1',
    })
    await expect(page.getByRole('grid', { name: 'Positions' })).toContainText('OSPRY')
    await menu.click()
    await page.getByRole('menuitem', { name: 'Accounts …' }).click()
    await panel.getByRole('button', { name: 'Use PAPER-1' }).click()
    await expect(page.getByText('Nothing is held.')).toBeVisible()
  })

  test('a key is made with the rights it needs, told once, and withdrawn', async ({}, info) => {
    const { page, demo } = shares
    await page.getByRole('button', { name: /^Paper/ }).click()
    await page.getByRole('menuitem', { name: 'Keys …' }).click()
    const panel = page.getByRole('dialog', { name: 'Keys for the paper environment' })
    await expect(panel).toContainText('It may do everything')
    await panel.getByRole('tab', { name: 'Make a key' }).click()
    await panel.getByLabel('What it is for').fill('morning script')
    await panel.getByRole('button', { name: 'Make the key' }).click()
    const secret = await panel.getByTestId('secret').innerText()
    const file = info.outputPath('key.json')
    const saving = page.waitForEvent('download')
    await panel.getByRole('button', { name: 'Save as a file for clients' }).click()
    await (await saving).saveAs(file)
    const key = JSON.parse(readFileSync(file, 'utf8')) as { keyId: string; secret: string }
    expect(key.secret).toBe(secret)
    await panel.getByRole('button', { name: 'Done' }).click()
    await expect(page.getByText(secret)).toHaveCount(0)
    const tokenFor = () =>
      fetch(`${demo.brokerUrl}/paper/token`, {
        method: 'POST',
        headers: { Authorization: `Basic ${Buffer.from(`${key.keyId}:${key.secret}`).toString('base64')}` },
        body: new URLSearchParams({ grant_type: 'client_credentials' }),
      })
    const { access_token } = (await (await tokenFor()).json()) as { access_token: string }
    const ask = (method: string, path: string) =>
      fetch(`${demo.brokerUrl}${path}`, { method, headers: { Authorization: `Bearer ${access_token}` } })
    expect(await (await ask('GET', '/paper/whoami')).json()).toMatchObject({
      key: { label: 'morning script' },
      scopes: ['see-market', 'see-account'],
    })
    expect(await (await ask('POST', '/paper/orders')).json()).toMatchObject({
      type: '/problems/missing-scope',
    })
    await panel.getByRole('tab', { name: 'All keys' }).click()
    await panel.getByRole('button', { name: 'Withdraw morning script' }).click()
    await panel.getByRole('button', { name: 'Withdraw', exact: true }).click()
    await expect(panel.getByText('morning script')).toHaveCount(0)
    expect((await tokenFor()).status).toBe(401)
    expect((await ask('GET', '/paper/venues')).status).toBe(401)
    await page.keyboard.press('Escape')
  })

  test('a spreadsheet reads a table from a URL that is made here, until it is withdrawn', async () => {
    const { page, demo } = shares
    await demo.request('POST', '/paper/orders', {
      ...{ clOrdId: 'for-sheet', symbol: 'OSPRY', side: 'Buy', orderQty: 7, ordType: 'Market' },
    })
    await page.getByRole('button', { name: /^Paper/ }).click()
    await page.getByRole('menuitem', { name: 'Keys …' }).click()
    const panel = page.getByRole('dialog', { name: 'Keys for the paper environment' })
    await panel.getByRole('tab', { name: 'A table by URL' }).click()
    await panel.getByLabel('What it is for').fill('day sheet')
    await panel.getByRole('button', { name: 'Make the URL' }).click()
    const table = async (name: string, symbols?: string) => {
      await panel.getByRole('combobox', { name: 'Table' }).click()
      await page.getByRole('option', { name }).click()
      if (symbols) await panel.getByLabel(/^Securit/).fill(symbols)
      return panel.getByTestId('url').innerText()
    }
    const rows = async (url: string) => readCsv(await (await fetch(url)).text()).rows.length
    const positions = await table('positions')
    expect(await rows(positions)).toBe(1)
    expect(await rows(await table('quotes of some securities', 'ospry, GANET'))).toBe(2)
    expect(await rows(await table('daily bars of a security', 'OSPRY'))).toBeGreaterThan(200)
    await panel.getByRole('tab', { name: 'All keys' }).click()
    await panel.getByRole('button', { name: 'Withdraw day sheet' }).click()
    await panel.getByRole('button', { name: 'Withdraw', exact: true }).click()
    await expect(panel.getByText('day sheet')).toHaveCount(0)
    expect((await fetch(positions)).status).toBe(401)
    await page.keyboard.press('Escape')
  })

  test('live is entered outright, cannot be taken for paper, and a page begins on paper again', async () => {
    const { page, demo } = shares
    const before = await demo.request<Order[]>('GET', '/paper/orders')
    await page.getByRole('button', { name: /^Paper/ }).click()
    await page.getByRole('menuitem', { name: 'Keys …' }).click()
    await page.getByRole('tab', { name: 'Use another key here' }).click()
    await page.locator('input[type=file]').setInputFiles(demo.keyFile.replace('paper-key', 'live-key'))
    const go = page.getByRole('button', { name: 'Go LIVE with this key' })
    await go.click()
    await expect(page.getByText('Say that this page is to go live')).toBeVisible()
    await page.getByLabel(/This page goes LIVE/).check()
    await go.click()
    await expect(page.getByRole('button', { name: /^LIVE stand-in/ })).toBeVisible()
    await page.keyboard.press('Escape')
    await expect(page.getByRole('complementary', { name: 'Order and account' })).toContainText('LIVE-1')
    await page.keyboard.press('/')
    await page.getByRole('textbox', { name: 'Search' }).fill('OSPRY')
    await page.keyboard.press('Enter')
    await page.waitForURL(/\/look\/OSPRY/)
    await expect(page.getByRole('complementary', { name: 'Order and past hits' })).toContainText(/\w/)
    await page.keyboard.press('o')
    await page.getByRole('button', { name: /Send to LIVE/ }).click()
    await page.getByText('Sent to LIVE LIVE-1:').waitFor()
    expect(await demo.request<Order[]>('GET', '/paper/orders')).toEqual(before)
    await page.reload()
    await expect(page.getByRole('button', { name: /^Paper/ })).toBeVisible()
    await expect(page.locator('html')).toHaveAttribute('data-environment', 'paper')
  })
})
