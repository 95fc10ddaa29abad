import { type Locator } from '@playwright/test'
import { expect, oneWindow, scan, summary, test } from './app'

test.describe('rules, lists and supplied scans', () => {
  const shares = oneWindow('/find')

  test('a supplied scan runs when it is taken up, in its order; the voices are asked of everyone', async () => {
    const { page } = shares
    await expect(summary(page)).toBeVisible()
    await page.getByRole('button', { name: /^Saved scans/ }).click()
    await page.getByRole('button', { name: /^Narrowest day in six weeks/ }).click()
    await expect(page.getByRole('columnheader', { name: /^atr\(14\)/ })).toHaveAttribute(
      'aria-sort',
      'ascending',
    )
    await page.getByRole('button', { name: /^Saved scans/ }).click()
    await page.getByRole('button', { name: /^Turned after a fall/ }).click()
    await expect(page.getByRole('columnheader', { name: /^rsi\(14\)/ })).toHaveAttribute(
      'aria-sort',
      'ascending',
    )
    await page.getByText('Ballot', { exact: true }).click()
    await expect(page.getByRole('grid', { name: 'Ballot' })).toContainText('for')
    await expect(page.getByRole('columnheader', { name: /^Sum of 10/ })).toBeVisible()
    await page.getByText('Who meets it', { exact: true }).click()
  })

  test('a rule in rows, its other side, its past, kept as a list', async () => {
    const { page } = shares
    await expect(summary(page)).toBeVisible()
    await scan(page, 'rsi(14) < 40 and volume > 100k')
    await expect(page.getByRole('list', { name: 'How many pass each part' })).toContainText(
      /\d+ rsi\(14\) < 40/,
    )
    await page.getByRole('button', { name: 'other side' }).click()
    await expect(page.getByRole('textbox', { name: 'Rule' })).toHaveText('rsi(14) > 60 and volume > 100000')
    await page.getByRole('button', { name: 'builder' }).click()
    await page.getByLabel('Right side: text').first().fill('55')
    await page.getByLabel('Right side: text').first().press('Enter')
    await page.getByRole('button', { name: 'text', exact: true }).click()
    await expect(page.getByRole('textbox', { name: 'Rule' })).toHaveText('rsi(14) > 55 and volume > 100000')
    await page.getByRole('button', { name: 'Scan', exact: true }).click()
    await expect(page.getByText(/This is a state: it held on \d+ % of bars/)).toBeVisible()
    await page.getByRole('button', { name: 'Keep as a list' }).click()
    await page.getByLabel('Name of the list').fill('Strong')
    await page.keyboard.press('Enter')
    await expect(page.getByText(/Kept \d+ as “Strong”/)).toBeVisible()
    await page.getByText('When it was true before').click()
    await expect(page.getByRole('table', { name: 'What followed' })).toContainText('20 bars')
    await expect(page.getByText(/bars later the middle of/)).toBeVisible()
  })
})

test('a level drawn by hand is named in a rule; dividers answer in a sentence; voices are counted', async ({
  page,
  demo,
}) => {
  await page.goto(`${demo.url}/look/OSPRY`)
  const chart = page.getByRole('img', { name: /Chart of/ })
  await expect(chart).toBeVisible()
  await expect(page.getByTestId('ballot')).toHaveText(/^[+−]?\d+$/)
  const box = (await chart.boundingBox())!
  await page.getByRole('button', { name: 'level', exact: true }).click()
  await page.mouse.click(box.x + 300, box.y + 80)
  await expect(page.getByLabel('Name of level 1')).toHaveValue('level 1')
  await page.getByRole('button', { name: 'Use level 1 in the rule' }).click()
  await expect(page.getByRole('link', { name: /close crosses above level\("level 1"\)/ })).toBeVisible()
  await page.getByRole('button', { name: 'dividers', exact: true }).click()
  // The rule has grown, and the chart moves with it: a click before it stands is made again.
  const place = (x: number, y: number, told: Locator) =>
    expect(async () => {
      const now = (await chart.boundingBox())!
      await page.mouse.click(now.x + x, now.y + y)
      await expect(told).toBeVisible({ timeout: 10_000 })
    }).toPass({ timeout: 90_000 })
  const said = page.getByTestId('dividers')
  await place(150, 160, page.getByText('now the second place'))
  await place(350, 90, said)
  await expect(said).toHaveText(/^From [\d.]+ to [\d.]+: up .* ticks, .* average ranges\), in \d+ bars\.$/)
})

test('bars are brought up to date, stopped half-way, and taken up from there', async ({
  page,
  own: demo,
}) => {
  let asked = 0
  let hold: () => void = () => undefined
  await page.goto(`${demo.url}/data`)
  const bars = page.getByRole('region', { name: 'Bars of the market' })
  await expect(bars).toContainText('None yet')
  await page.route('**/bars?*', async (route) => {
    if (new URL(route.request().url()).searchParams.has('limit') && asked++ === 0)
      await new Promise<void>((resolve) => (hold = resolve))
    await route.continue().catch(() => undefined)
  })
  await bars.getByRole('button', { name: 'Bring up to date' }).click()
  await expect(bars.getByText(/^0 of \d+ securities/)).toBeVisible()
  await bars.getByRole('button', { name: 'Stop' }).click()
  hold()
  await expect(bars.getByRole('button', { name: 'Bring up to date' })).toBeVisible()
  await expect(bars).toContainText('None yet')
  await bars.getByRole('button', { name: 'Bring up to date' }).click()
  await expect(bars).toContainText(/[\d,]+ bars came/)
  await expect(bars.getByRole('gridcell', { name: 'none' })).toBeVisible()
  await bars.getByRole('gridcell', { name: '1 day', exact: true }).click()
  await expect(bars.getByRole('table', { name: 'Last bars of 1 day' })).toContainText('Fri 13 Mar 2026')
  await bars.getByRole('button', { name: 'Bring up to date' }).click()
  await expect(bars).toContainText('nothing was missing')
})

test('a scan that is left running marks who comes and goes; a saved one runs by itself; its runs are compared', async ({
  page,
  own,
}) => {
  await page.goto(`${own.url}/find`)
  await expect(summary(page)).toBeVisible()
  await page.getByRole('button', { name: /^Bars:/ }).click()
  await page.getByRole('button', { name: '5 min', exact: true }).click()
  await page.getByRole('switch', { name: 'with the bar that is still growing' }).click()
  await page.keyboard.press('Escape')
  await scan(page, 'close > vwap and rsi(14) > 55')
  await expect(summary(page)).toContainText('the bar so far')
  await page.getByRole('button', { name: 'Save the scan' }).click()
  await page.getByLabel('Name of the scan').fill('Above the average')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Saved as “Above the average”.')).toBeVisible()
  await page.getByRole('button', { name: /^Saved scans/ }).click()
  await page.getByRole('button', { name: 'runs', exact: true }).click()
  await page.getByRole('combobox', { name: 'Tags' }).fill('session')
  await page.keyboard.press('Enter')
  await page.getByRole('combobox', { name: 'Runs' }).click()
  await page.getByRole('option', { name: 'every so many minutes of a session' }).click()
  await page.getByRole('textbox', { name: 'Minutes' }).fill('1')
  await page.keyboard.press('Escape')
  await page.getByRole('switch', { name: 'keep looking' }).click()
  for (let k = 0; k < 3; k++) {
    await own.request('POST', '/paper/market-time', { step: 300 })
    await expect(summary(page)).toContainText(/looking every few seconds: \d+ came, \d+ went/)
  }
  await expect(summary(page)).toContainText(/: [1-9]\d* came|, [1-9]\d* went/)
  await expect(page.getByText(/“Above the average” ran by itself/).first()).toBeVisible()
  await page.getByRole('button', { name: /^Saved scans/ }).click()
  await page.getByRole('button', { name: 'session', exact: true }).click()
  await page.getByRole('button', { name: 'runs', exact: true }).click()
  await expect(page.getByText(/^Still there \(\d+\)/)).toBeVisible()
  await expect(page.getByText(/^New \(\d+\)/)).toBeVisible()
})
