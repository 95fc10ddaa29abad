import { expect, scan, summary, test } from './app'

test('a plan begins from the hits of a scan, and from a drawn line; a line that is moved is told', async ({
  page,
  demo,
}) => {
  await page.goto(`${demo.url}/find`)
  await expect(summary(page)).toBeVisible()
  await scan(page, 'rsi(14) < 40 and volume > 100k')
  await page.getByRole('button', { name: 'Begin a plan' }).click()
  const plan = page.getByRole('region', { name: 'Plan', exact: true })
  await expect(plan.getByLabel('Name of the plan')).toHaveValue('From a scan')
  await expect(plan.getByRole('textbox', { name: 'Condition' })).toContainText('rsi(14) < 40')
  await expect(plan.getByLabel('Looks', { exact: true })).toHaveValue('Tick')
  await expect(plan.getByLabel('Entries a day', { exact: true })).toHaveValue('1')

  await page.goto(`${demo.url}/look/OSPRY`)
  const chart = page.getByRole('img', { name: /Chart of/ })
  await expect(page.getByTestId('ballot')).toHaveText(/^[+−]?\d+$/)
  const box = (await chart.boundingBox())!
  await page.getByRole('button', { name: 'level', exact: true }).click()
  await page.mouse.click(box.x + 300, box.y + 80)
  await page.getByRole('button', { name: 'Plan at level 1' }).click()
  await expect(plan.getByLabel('Name of the plan')).toHaveValue('OSPRY at level 1')
  await expect(page.getByRole('list', { name: 'Clauses' })).toContainText(/level\("level 1"\)/)
  await plan.getByRole('button', { name: 'Watch' }).click()
  await expect(plan).toContainText('Version 1, watching')

  // Moved on its chart: the plan that runs goes on with the old one, and says so.
  await page.getByRole('link', { name: 'Look', exact: true }).click()
  const price = page.getByRole('region', { name: 'Drawn' }).getByLabel('Price')
  await price.fill('9.5')
  await price.press('Enter')
  await page.getByRole('link', { name: 'Plan', exact: true }).click()
  await expect(page.getByRole('list', { name: 'Changed since' })).toContainText(
    /Drawn: “level 1 on OSPRY at [\d.]+” is now “level 1 on OSPRY at 9\.50”/,
  )
  await plan.getByRole('button', { name: 'Stop', exact: true }).click()
  await page.getByRole('button', { name: 'Duplicate' }).click()
  await expect(plan.getByLabel('Name of the plan')).toHaveValue('OSPRY at level 1, again')
})

test('pairs and levels are written in the sentence, and change the plan', async ({ page, demo }) => {
  await page.goto(`${demo.url}/plan`)
  await page.getByRole('button', { name: '+ Two of a kind' }).click()
  const plan = page.getByRole('region', { name: 'Plan', exact: true })
  await plan.getByLabel('Pairs', { exact: true }).fill('ganet/ternw, OSPRY/OSPRY, KIPPR/BUOYS, HERRG')
  await plan.getByLabel('Pairs', { exact: true }).blur()
  // What is no pair is left out.
  await expect(plan.getByLabel('Pairs', { exact: true })).toHaveValue('GANET/TERNW, KIPPR/BUOYS')
  await plan.getByLabel('Looks at', { exact: true }).selectOption('these:')
  await expect(plan.getByLabel('Ratio', { exact: true })).toBeHidden()
  await plan.getByLabel('Price', { exact: true }).selectOption('once the price comes to')
  await plan.getByLabel('Level of the price', { exact: true }).fill('prior.high')
  await plan.getByLabel('Rests', { exact: true }).selectOption('rests')
  await plan.getByRole('button', { name: 'Duplicate' }).click()
  await expect(plan.getByLabel('Level of the price', { exact: true })).toHaveValue('prior.high')
  await expect(plan.getByLabel('Rests', { exact: true })).toHaveValue('rests')
})
