import { readFileSync, writeFileSync } from 'node:fs'
import { type Page } from '@playwright/test'
import { barsFile, type Demo, expect, scan, summary, test } from './app'

const openMenu = async (page: Page, item: RegExp) => {
  await page.getByRole('button', { name: /Paper environment/ }).click()
  await page.getByRole('menuitem', { name: item }).click()
}

/** Everything that this site keeps in the browser, as text. */
const everythingKept = (page: Page): Promise<string> =>
  page.evaluate(async () => {
    const db = await new Promise<IDBDatabase>((resolve, reject) => {
      const open = indexedDB.open('fleet-heron')
      open.onsuccess = () => resolve(open.result)
      open.onerror = () => reject(open.error ?? new Error('closed'))
    })
    const rows = await Promise.all(
      [...db.objectStoreNames].map(
        (name) =>
          new Promise((resolve) => {
            const all = db.transaction(name).objectStore(name).getAll()
            all.onsuccess = () => resolve([name, all.result])
          }),
      ),
    )
    return JSON.stringify(rows) + JSON.stringify({ ...localStorage }) + JSON.stringify({ ...sessionStorage })
  })

const newKey = (demo: Demo) =>
  demo.request<{ keyId: string; secret: string }>('POST', '/paper/keys', {
    label: 'mine',
    scopes: ['see-market', 'see-account', 'send-orders'],
  })

test('a secret is kept only if asked for, locked; a wrong one is told from an unknown key', async ({
  page,
  demo,
}) => {
  const { keyId, secret } = await newKey(demo)
  await page.goto(`${demo.url}/find`)
  await openMenu(page, /Keys/)
  const panel = page.getByRole('dialog', { name: 'Keys for the paper environment' })
  const another = () => panel.getByRole('tab', { name: 'Use another key here' }).click()
  await another()
  const use = async (id: string, word: string, passphrase?: string) => {
    await panel.getByLabel('Key id').fill(id)
    await panel.getByLabel('Secret', { exact: true }).fill(word)
    const keep = panel.getByLabel(/Keep the secret/)
    await keep.setChecked(passphrase !== undefined)
    if (passphrase !== undefined) await panel.getByLabel('Passphrase', { exact: true }).fill(passphrase)
    await panel.getByRole('button', { name: 'Use this key' }).click()
  }
  await use('paper-nobody', secret)
  await expect(panel.getByRole('alert')).toContainText('Unknown key')
  await use(keyId, 'not it')
  await expect(panel.getByRole('alert')).toContainText('Wrong secret')
  await use(keyId, secret)
  await expect(panel).toContainText(`In use: ${keyId}`)
  expect(await everythingKept(page)).not.toContain(secret)
  await use(keyId, secret, 'estuary at low tide')
  await expect(panel.getByLabel(`Passphrase of ${keyId}`)).toBeVisible()
  const kept = await everythingKept(page)
  expect(kept).toContain(keyId)
  expect(kept).not.toContain(secret)
  expect(await page.content()).not.toContain(secret)

  await page.reload()
  await openMenu(page, /Keys/)
  await another()
  await expect(panel).toContainText('the key that the demo made')
  await panel.getByLabel(`Passphrase of ${keyId}`).fill('estuary at high tide')
  await panel.getByRole('button', { name: 'Unlock and use' }).click()
  await expect(panel.getByRole('alert')).toContainText('not the passphrase')
  await panel.getByLabel(`Passphrase of ${keyId}`).fill('estuary at low tide')
  await panel.getByRole('button', { name: 'Unlock and use' }).click()
  await expect(panel).toContainText(`In use: ${keyId}`)
})

test('the workspace leaves as one file without secrets, and comes back in a fresh browser', async ({
  page,
  demo,
  browser,
}, info) => {
  const bars = info.outputPath('valley.csv')
  writeFileSync(bars, barsFile())
  await page.goto(`${demo.url}/data`)
  await page.getByLabel('Choose CSV files').setInputFiles(bars)
  await page.getByRole('button', { name: 'Keep 3 and scan them' }).click()
  await scan(page, 'close > sma(close, 10)')
  await expect(summary(page)).toContainText('of 3 meet it')
  const found = await summary(page).innerText()
  await page.getByRole('button', { name: 'Save the scan' }).click()
  await page.getByLabel('Name of the scan').fill('Valley')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: 'Saved scans (1)' })).toBeVisible()
  await openMenu(page, /workspace/)
  const download = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Save the workspace' }).click()
  const file = await (await download).path()
  const text = readFileSync(file, 'utf8')
  expect(text).toContain('Valley')
  expect(text).not.toContain('cipher')

  const fresh = await browser.newContext()
  const other = await fresh.newPage()
  await other.goto(`${demo.url}/find`)
  await openMenu(other, /workspace/)
  const dialog = other.getByRole('dialog', { name: 'The workspace' })
  const damaged = info.outputPath('damaged.json')
  writeFileSync(damaged, text.slice(0, text.length / 2))
  await dialog.locator('input[type=file]').setInputFiles(damaged)
  await expect(dialog.getByRole('status')).toContainText('not a workspace file')
  await dialog.locator('input[type=file]').setInputFiles(file)
  await expect(dialog.getByRole('status')).toContainText(
    '1 scans with 1 runs, 1 sets of own data with 3 securities',
  )
  await other.keyboard.press('Escape')
  await other.getByRole('button', { name: 'Saved scans (1)' }).click()
  await other.getByRole('button', { name: /^Valley/ }).click()
  await expect(summary(other)).toHaveText(found)
  await fresh.close()
})

test('two tabs see the same scans and the same orders', async ({ page, demo, context }) => {
  await page.goto(`${demo.url}/find`)
  const second = await context.newPage()
  await second.goto(`${demo.url}/desk`)
  await expect(second.getByRole('heading', { name: 'PAPER-1' })).toBeVisible()
  await demo.request('POST', '/paper/orders', {
    clOrdId: 'two-tabs-1',
    symbol: 'TERNW',
    side: 'Buy',
    orderQty: 3,
    ordType: 'Limit',
    price: 1.5,
  })
  await expect(second.getByRole('grid', { name: 'Orders' })).toContainText('TERNW')
  await second.getByRole('button', { name: /Cancel Buy 3 Limit 1.50 TERNW/ }).click()
  await expect(second.getByRole('grid', { name: 'Orders' })).toContainText('Canceled')
  await scan(page, 'close > sma(close, 9)')
  await page.getByRole('button', { name: 'Save the scan' }).click()
  await page.getByLabel('Name of the scan').fill('From the first tab')
  await page.keyboard.press('Enter')
  await second.goto(`${demo.url}/find`)
  await expect(second.getByRole('button', { name: 'Saved scans (1)' })).toBeVisible()
})
