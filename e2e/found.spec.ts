import { type Page } from '@playwright/test'
import { expect, oneWindow, scan, section, summary, test } from './app'

/** Looks through other bars, as of a past day where one is given. */
async function bars(page: Page, every: string, asOf: string) {
  await page.getByRole('button', { name: /^Bars: / }).click()
  await page.getByLabel('Any other length').fill(every)
  await page.getByRole('button', { name: 'Use', exact: true }).click()
  await page.getByLabel('As of the close of a past day').fill(asOf)
  await page.getByRole('button', { name: 'Go', exact: true }).click()
}

const result = (page: Page) => page.getByRole('group', { name: 'Securities that meet the rule' })
const chart = (page: Page) => page.getByRole('img', { name: /Chart of \d+ bars/ })

test.describe('from a row to its chart', () => {
  const shares = oneWindow('/find')

  test('a past hit opens on the bar on which the rule came true', async () => {
    const { page } = shares
    await expect(summary(page)).toBeVisible()
    await scan(page, 'close crosses above sma(close, 50)')
    await page.getByText('When it was true before').click()
    const hits = page.getByRole('group', { name: 'When the rule came true' })
    await hits.focus()
    for (let k = 0; k < 40; k++) await page.keyboard.press('ArrowDown')
    const row = hits.getByRole('row', { selected: true })
    const cells = await row.getByRole('gridcell').allInnerTexts()
    const when = cells.find((text) => /20\d\d/.test(text))!
    await page.keyboard.press('Enter')
    await expect(page.getByTestId('found')).toContainText(`holds on ${when}, where it was found`)
    await expect(page.getByTestId('bar')).toContainText(when)
  })

  test('letters work wherever the last choice was made; rows are marked by keyboard and kept as a list', async () => {
    const { page } = shares
    await section(page, 'Find')
    await expect(summary(page)).toBeVisible()
    await scan(page, 'rsi(14) > 50')
    await expect(summary(page)).toContainText(/\d\d of 193 meet it/)
    await result(page).focus()
    await page.keyboard.press('Space')
    await page.keyboard.press('Shift+ArrowDown')
    await page.keyboard.press('Shift+ArrowDown')
    await page.getByRole('button', { name: 'Keep the 3 as a list' }).click()
    await page.getByLabel('Name of the list').fill('Three of them')
    await page.keyboard.press('Enter')
    await expect(page.getByText('Kept 3 as “Three of them”')).toBeVisible()
    await page.getByText('Ballot', { exact: true }).click()
    await page.getByText('Who meets it', { exact: true }).click()
    await page.keyboard.press('o')
    await expect(page.getByRole('region', { name: 'Order ticket' })).toBeVisible()
    await page.keyboard.press('Escape')
    await page.getByText('Pairs', { exact: true }).click()
    await page.keyboard.press('/')
    await expect(page.getByRole('textbox', { name: 'Search' })).toBeFocused()
    await page.keyboard.press('Escape')
    await page.keyboard.press('d')
    await expect(page).toHaveURL(/\/desk$/)
  })

  test('a row of three-minute bars as of a past day opens on those bars, at that moment, where the rule holds', async () => {
    const { page } = shares
    await section(page, 'Find')
    await expect(summary(page)).toBeVisible()
    await bars(page, '3 min', '2026-02-10')
    await scan(page, 'close > sma(close, 15) and on(1 day, close > sma(close, 20))')
    await expect(summary(page)).toContainText(/[1-9]\d* of 193 meet it/)
    await expect(summary(page)).toContainText(/as of Tue 10 Feb 2026/)
    await result(page).focus()
    await page.keyboard.press('Enter')
    await expect(page.getByRole('button', { name: 'Bars: 3 min' })).toBeVisible()
    const found = page.getByTestId('found')
    await expect(found).toContainText(/holds on Tue 10 Feb 2026, 1\d:\d\d, as of that day/)
    const moment = /Tue 10 Feb 2026, \d\d:\d\d/.exec(await found.innerText())![0]
    // A bar's own start on the chart, at the crosshair's rest.
    await expect(page.getByTestId('bar')).toContainText(moment)
    await found.getByRole('button', { name: 'leave it' }).click()
    await expect(found).toBeHidden()
  })
})

test('a level follows the mouse to a price that can be traded; a day far back loads its minutes', async ({
  page,
  demo,
}) => {
  await page.goto(`${demo.url}/look/OSPRY`)
  await expect(chart(page)).toBeVisible()
  await page.getByRole('button', { name: 'level', exact: true }).click()
  const box = (await chart(page).boundingBox())!
  await page.mouse.click(box.x + 300, box.y + 90)
  const price = page.getByLabel('Price', { exact: true })
  const before = Number(await price.inputValue())
  await page.mouse.move(box.x + 420, box.y + 90)
  await page.mouse.down()
  await page.mouse.move(box.x + 420, box.y + 130, { steps: 4 })
  await page.mouse.up()
  await expect(price).not.toHaveValue(String(before))
  const after = Number(await price.inputValue())
  expect(after).toBeLessThan(before)
  // Osprey's steps are cents.
  expect(after * 100).toBeCloseTo(Math.round(after * 100), 6)
  await page.getByRole('button', { name: /^Bars: / }).click()
  await page.getByRole('button', { name: '1 min', exact: true }).click()
  await expect(page.getByTestId('bar')).toContainText(/Mon 16 Mar 2026, \d\d:\d\d/)
  const day = page.getByLabel('Day', { exact: true })
  // The chart is drawn anew for its other bars, and a key pressed meanwhile goes nowhere.
  await expect(async () => {
    await chart(page).focus()
    await page.keyboard.press('g')
    await expect(day).toBeVisible({ timeout: 5_000 })
  }).toPass()
  await day.fill('2023-06-07')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('bar')).toContainText(/On Wed 7 Jun 2023, \d\d:\d\d/)
})

test('a file that names nothing is read, shown beside its lines, scanned as of its past days and opened there', async ({
  page,
  demo,
}) => {
  const rows = ['20260202', '20260203', '20260204', '20260205', '20260206'].flatMap((date, day) =>
    Array.from({ length: 40 }, (_, i) => {
      const close = 20 + day + i / 40
      const time = String(900 + Math.floor(i / 20) * 100 + (i % 20) * 3).padStart(4, '0')
      const prices = [close - 0.1, close + 0.3, close - 0.4, close].map((x) => x.toFixed(2)).join(',')
      return ['BECK', 'RILL'].map((symbol) => `${symbol},${date},${time}00,${prices},${100 + i}`).join('\r\n')
    }),
  )
  await page.goto(`${demo.url}/data`)
  await page.getByLabel('Choose CSV files').setInputFiles({
    name: 'evening.txt',
    mimeType: 'text/plain',
    buffer: Buffer.from(`\uFEFF${rows.join('\r\n')}`, 'utf16le'),
  })
  await expect(page.getByText('2 securities, 400 good lines, 0 left out')).toBeVisible()
  await expect(page.getByRole('table', { name: /^First lines of the file/ })).toContainText(
    /BECK Mon 2 Feb 2026, 09:00: 19.90 · 20.30 · 19.60 · 20.00/,
  )
  await page.getByLabel('Keep them as').fill('Evening')
  await page.getByRole('button', { name: 'Keep 2 and scan them' }).click()
  await scan(page, 'close > sma(close, 5)')
  await page.getByRole('button', { name: /^Its bars: / }).click()
  await page.getByLabel('As of the close of a past day').fill('2026-02-04')
  await page.getByRole('button', { name: 'Go', exact: true }).click()
  await expect(summary(page)).toContainText(/2 of 2 meet it.*as of Wed 4 Feb 2026, 11:00/)
  await result(page).focus()
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('found')).toContainText(/holds on Wed 4 Feb 2026, 10:57, as of that day/)
  await expect(page.getByTestId('bar')).toContainText('Wed 4 Feb 2026, 10:57')
})
