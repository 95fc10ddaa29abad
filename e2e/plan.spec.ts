import { type Order } from '../core/orders/model'
import { expect, test } from './app'

test('a plan is begun from the example, tried while it is changed, watched, armed, stopped; its orders say whose they are', async ({
  page,
  own: demo,
}) => {
  await page.goto(`${demo.url}/plan`)
  await expect(page.getByText('There is no plan yet.')).toBeVisible()
  await page.getByRole('button', { name: '+ Fast over slow' }).click()
  const plan = page.getByRole('region', { name: 'Plan', exact: true })
  const found = page.getByRole('list', { name: 'Clauses' })
  await expect(found).toContainText('largest order: order value')
  await expect(found.getByText('holds:').first()).toBeAttached()

  // A threshold that the order does not meet, and one that it does: nothing is sent for either.
  await plan.getByLabel('Rule of gate 2').fill('order value <= 100')
  await expect(found).toContainText(/order value \$7,[\d,.]+ is not at or below 100/)
  await plan.getByLabel('Rule of gate 2').fill('order value <= 9000')
  await expect(found).toContainText('is at or below 9000')
  // What cannot be read is said where it stands, and keeps it from being armed.
  await plan.getByLabel('Rule of gate 2').fill('order value <=')
  await expect(plan.getByRole('button', { name: 'Arm in paper …' })).toBeDisabled()
  await plan.getByLabel('Rule of gate 2').fill('order value <= 9000')
  await plan.getByLabel('Name of the plan').fill('Morning cross')

  // The other side is made of the first, opens the other way, and is taken away again.
  await plan.getByRole('button', { name: 'Add the other side' }).click()
  await expect(plan.getByRole('textbox', { name: 'Condition, other side' })).toContainText('crosses below')
  await expect(plan.getByLabel('Opens, other side')).toHaveValue('Short')
  await page.getByLabel('Side', { exact: true }).selectOption('other side')
  await expect(found).toContainText('crosses below')
  await plan.getByLabel('Opens', { exact: true }).selectOption('sell short')
  await expect(plan.getByLabel('Opens, other side')).toHaveValue('Long')
  await plan.getByLabel('Opens', { exact: true }).selectOption('buy')
  await plan.getByRole('button', { name: 'Take the other side away' }).click()

  await demo.request('POST', '/paper/market-time', { sessionTakes: 60, running: true })
  await plan.getByRole('button', { name: 'Watch' }).click()
  await expect(plan).toContainText('Version 1, watching: sends nothing · runs here, and ends with this page')
  await expect(plan.getByRole('list', { name: 'What it did' })).toContainText(/would send Buy \d+/, {
    timeout: 60_000,
  })
  expect(await demo.request<Order[]>('GET', '/paper/orders?which=all')).toEqual([])

  // What is changed while it runs is another version.
  await plan.getByLabel('Size', { exact: true }).fill('5')
  await expect(plan.getByRole('list', { name: 'Changed since' })).toContainText(
    'is now “buy shares for 5 % of equity, at the market, good for the day”',
  )
  await demo.request('POST', '/paper/market-time', { jumpTo: 'open' })
  await demo.request('POST', '/paper/market-time', { sessionTakes: 60, running: true })
  await plan.getByRole('button', { name: 'Arm in paper …' }).click()
  const asked = page.getByRole('dialog', { name: 'Arm Morning cross in paper?' })
  await expect(asked).toContainText('At most 4 entries a day.')
  await asked.getByRole('button', { name: 'Arm in paper' }).click()
  await expect(plan).toContainText('Version 2, armed in paper: acts on its own')
  await expect(plan.getByRole('list', { name: 'What it did' })).toContainText(/Buy \d+ [A-Z]+ at/, {
    timeout: 60_000,
  })
  await expect(page.getByRole('link', { name: '1 plan armed' })).toBeVisible()
  // It goes on while another section is looked at, and standing down ends it.
  await page.getByRole('link', { name: 'Desk' }).click()
  await page.getByRole('button', { name: 'Stand down' }).click()
  const standing = page.getByRole('dialog', { name: 'Stand down' })
  await expect(standing).toContainText('1 plan that runs in this page is stopped')
  await standing.getByRole('button', { name: 'Stand down' }).click()
  await expect(page.getByText('stopped here: Morning cross')).toBeVisible()
  await page.getByRole('link', { name: 'Plan', exact: true }).click()
  await expect(plan).toContainText('A draft: nothing looks at the market for it')
  const [first] = (await demo.request<Order[]>('GET', '/paper/orders?which=all')).filter(
    ({ role }) => role === 'Entry',
  )
  expect(first.clOrdId).toMatch(/^p\.[a-z2-7]{26}$/)
  expect(first.origin).toMatchObject({ from: 'Plan', name: 'Morning cross', version: '2' })
  await page.reload()
  await expect(plan.getByLabel('Name of the plan')).toHaveValue('Morning cross')
})
