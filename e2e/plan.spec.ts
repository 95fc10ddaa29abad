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

  await demo.request('POST', '/paper/market-time', { sessionTakes: 60, running: true })
  await plan.getByRole('button', { name: 'Watch' }).click()
  await expect(plan).toContainText('Version 1, watching: sends nothing · runs here, and ends with this page')
  await expect(plan.getByRole('list', { name: 'What it did' })).toContainText(/would send Buy \d+/, {
    timeout: 60_000,
  })
  expect(await demo.request<Order[]>('GET', '/paper/orders?which=all')).toEqual([])

  // What is changed while it runs is another version.
  await plan.getByLabel('Size', { exact: true }).fill('5')
  await expect(plan).toContainText('changed since')
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
  await plan.getByRole('button', { name: 'Stop' }).click()
  await expect(plan).toContainText('A draft: nothing looks at the market for it')
  const [first] = (await demo.request<Order[]>('GET', '/paper/orders?which=all')).filter(
    ({ role }) => role === 'Entry',
  )
  expect(first.clOrdId).toMatch(/^p\.[a-z2-7]{26}$/)
  expect(first.origin).toMatchObject({ from: 'Plan', name: 'Morning cross', version: '2' })
  await page.reload()
  await expect(plan.getByLabel('Name of the plan')).toHaveValue('Morning cross')
})
