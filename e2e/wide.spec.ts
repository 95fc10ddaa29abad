import { expect, scan, summary, test } from './app'

test('a rule in rows, its other side, its past, kept as a list', async ({ page, demo }) => {
  await page.goto(`${demo.url}/find`)
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

test('a level drawn by hand is named in a rule; dividers answer in a sentence; voices are counted', async ({
  page,
  demo,
}) => {
  await page.goto(`${demo.url}/look/OSPRY`)
  const chart = page.getByRole('img', { name: /Chart of/ })
  await expect(chart).toBeVisible()
  await expect(page.getByTestId('ballot')).toHaveText(/^[+−]?\d$/)
  const box = (await chart.boundingBox())!
  await page.getByRole('button', { name: 'level', exact: true }).click()
  await page.mouse.click(box.x + 300, box.y + 80)
  await expect(page.getByLabel('Name of level 1')).toHaveValue('level 1')
  await page.getByRole('button', { name: 'Use level 1 in the rule' }).click()
  await expect(page.getByRole('link', { name: /close crosses above level\("level 1"\)/ })).toBeVisible()
  await page.getByRole('button', { name: 'dividers', exact: true }).click()
  await page.mouse.click(box.x + 150, box.y + 160)
  await page.mouse.click(box.x + 350, box.y + 90)
  await expect(page.getByTestId('dividers')).toHaveText(
    /^From [\d.]+ to [\d.]+: up .* average ranges\), in \d+ bars\.$/,
  )
})
