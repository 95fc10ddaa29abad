import { readFileSync } from 'node:fs'
import { readCsv } from '../core/formats/csv'
import readXlsxFile from 'read-excel-file/node'
import { expect, oneWindow, scan, summary, test } from './app'

test.describe('in one window', () => {
  const shares = oneWindow('/find')

  test('the editor marks a mistake at its place, says it, and keeps what was typed', async () => {
    const { page } = shares
    await scan(page, 'close > smaa(close, 20) and volume > 5')
    await expect(page.getByText('"smaa" is not known. Did you mean sma?')).toBeVisible()
    await expect(page.locator('.cm-lintRange-error')).toHaveText('smaa(close, 20)')
    await expect(page.getByRole('button', { name: 'Scan', exact: true })).toBeDisabled()
    await expect(page.getByRole('textbox', { name: 'Rule' })).toHaveText(
      'close > smaa(close, 20) and volume > 5',
    )
  })

  test('completion offers names with their meaning, by keyboard', async () => {
    const { page } = shares
    await scan(page, '')
    await page.keyboard.type('close > b')
    const offers = page.getByRole('listbox')
    await expect(offers).toContainText('bollinger')
    const marked = offers.getByRole('option', { selected: true }).locator('.cm-completionLabel')
    // In the first moment the editor takes no key for the list, lest Enter pick what has only just appeared.
    await expect
      .poll(() => page.keyboard.press('ArrowDown').then(() => marked.innerText()), { intervals: [50] })
      .toBe('bollinger')
    await expect(page.locator('.cm-completionInfo')).toContainText('standard deviations')
    await page.keyboard.press('Enter')
    await expect(page.getByRole('textbox', { name: 'Rule' })).toHaveText(/^close > bollinger\(\)?$/)
  })

  test('says whether a rule is a state or a moment', async () => {
    const { page } = shares
    await scan(page, 'close > sma(close, 20)')
    await expect(page.getByText(/This is a state/)).toBeVisible()
    await scan(page, 'close crosses above sma(close, 20)')
    await expect(page.getByText(/This is a moment/)).toBeVisible()
  })

  test('arrow keys walk the table and the reason follows; headers sort', async () => {
    const { page } = shares
    await scan(page, 'rsi(14) > 50')
    await expect(summary(page)).toContainText(/\d+ of 193 meet it/)
    const table = page.getByRole('group', { name: 'Securities that meet the rule' })
    await table.focus()
    await page.keyboard.press('ArrowDown')
    await page.keyboard.press('ArrowDown')
    const marked = page.getByRole('row', { selected: true })
    await expect(marked).toHaveAttribute('aria-rowindex', '4')
    const company = await marked.getByRole('gridcell').nth(2).innerText()
    await expect(page.getByRole('complementary', { name: 'The security in view' })).toContainText(company)
    await page.keyboard.press('End')
    const last = Number(await page.getByRole('row', { selected: true }).getAttribute('aria-rowindex'))
    expect(last).toBeGreaterThan(30)
    await page.getByRole('button', { name: 'rsi(14)' }).click()
    const values = await page.locator('tbody tr[aria-rowindex] td:nth-child(8)').allInnerTexts()
    expect(values.map(Number)).toEqual([...values.map(Number)].sort((a, b) => b - a))
  })

  test('a result exports to CSV and to a workbook, figures as numbers', async () => {
    const { page } = shares
    await scan(page, 'close > sma(close, 50)')
    await expect(summary(page)).toContainText(/\d+ of 193 meet it/)
    const found = Number((await summary(page).innerText()).split(' ')[0])
    const exported = async (form: string) => {
      await page.getByRole('button', { name: 'Export' }).click()
      const download = page.waitForEvent('download')
      await page.getByRole('menuitem', { name: form }).click()
      return (await download).path()
    }
    const { columns, rows } = readCsv(readFileSync(await exported('CSV'), 'utf8'))
    expect(columns.slice(0, 4)).toEqual(['Symbol', 'Company', 'Sector', 'Country'])
    expect(rows).toHaveLength(found)
    const sheets = await readXlsxFile(await exported('XLSX'))
    const table = (
      Array.isArray(sheets[0]) ? sheets : (sheets[0] as { data: unknown[][] }).data
    ) as unknown[][]
    expect(table).toHaveLength(found + 1)
    expect(typeof table[1][columns.indexOf('Close')]).toBe('number')
    expect(table.slice(1).map((row) => String(row[0]))).toEqual(rows.map((row) => row.cells[0]))
  })

  test('breadth stands beside the scan, said for longs and shorts; of own data too', async () => {
    const { page } = shares
    const market = page.getByRole('region', { name: 'The market' })
    await expect(market).toContainText(/\d+ closed at a new high of a year, \d+ at a new low; over five bars/)
    await expect(market).toContainText(/The market leans (up|down|neither way)/)
    await expect(market).toContainText(
      /\d+ rose, \d+ fell\d+\s% above the 50-day average\d+\s% above the 200-day average/,
    )
    await expect(market.getByRole('img', { name: /New highs and new lows over 63 sessions/ })).toBeVisible()
    // The universe of the scan changes nothing of the market.
    const said = await market.locator('p').first().innerText()
    await page.getByRole('button', { name: /^Universe/ }).click()
    await page.getByRole('menuitem', { name: 'Energy' }).click()
    await expect(market.locator('p').first()).toHaveText(said)
  })
})

test.describe('in a window of its own', () => {
  test.beforeEach(async ({ page, demo }) => {
    await page.goto(`${demo.url}/find`)
    await expect(summary(page)).toBeVisible()
  })

  test('another universe and other bars run by themselves; a column is added; nothing found says what to loosen', async ({
    page,
  }) => {
    await page.getByRole('button', { name: /^Universe/ }).click()
    await page.getByRole('menuitem', { name: 'Energy' }).click()
    await expect(summary(page)).toContainText(/of 1\d meet it|of \d meet it/)
    await page.getByRole('button', { name: /^Bars/ }).click()
    await page.getByRole('button', { name: 'weekly', exact: true }).click()
    await page.keyboard.press('Escape')
    await expect(summary(page)).toContainText('as of')
    await page.getByRole('button', { name: '+ Column' }).click()
    const measure = page.getByRole('textbox', { name: 'Show a measure' })
    await measure.click()
    await page.keyboard.insertText('atr(14) +')
    await expect(page.getByText(/Found the end/)).toBeVisible()
    await page.keyboard.press('ControlOrMeta+a')
    await page.keyboard.insertText('atr(14)')
    await page.getByRole('button', { name: 'Add the column' }).click()
    await scan(page, 'close > 1')
    await expect(page.getByRole('button', { name: /^atr\(14\)/ })).toBeVisible()
    await scan(page, 'close > 100000')
    await expect(page.getByText('Nothing meets the rule at its last bar.')).toBeVisible()
  })

  test('saved scans come back, run, feed another scan, and can be removed', async ({ page }) => {
    await scan(page, 'close > sma(close, 50)')
    await page.getByRole('button', { name: 'Save the scan' }).click()
    await page.getByLabel('Name of the scan').fill('Above fifty')
    await page.keyboard.press('Enter')
    await expect(page.getByText('Saved as “Above fifty”.')).toBeVisible()
    const found = (await summary(page).innerText()).split(' ')[0]
    await page.getByRole('button', { name: /^Universe/ }).click()
    await page.getByRole('menuitem', { name: 'Above fifty' }).click()
    await scan(page, 'volume > 0')
    await expect(summary(page)).toContainText(`${found} of ${found} meet it`)
    await page.getByRole('button', { name: 'Saved scans (1)' }).click()
    await page
      .getByRole('dialog')
      .getByRole('button', { name: /^Above fifty/ })
      .click()
    await expect(page.getByRole('textbox', { name: 'Rule' })).toHaveText('close > sma(close, 50)')
    await expect(summary(page)).toContainText(`${found} of 193 meet it`)
    await page.getByRole('button', { name: 'Saved scans (1)' }).click()
    await page.getByRole('button', { name: 'Remove the scan Above fifty' }).click()
    await page.keyboard.press('Escape')
    await expect(page.getByRole('button', { name: 'Saved scans (0)' })).toBeVisible()
  })
})
