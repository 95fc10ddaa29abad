import { type Order } from '../core/orders/model'
import { expect, test, write } from './app'

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
  await expect(plan.getByRole('button', { name: 'Arm in paper PAPER-1 …' })).toBeDisabled()
  await plan.getByLabel('Rule of gate 2').fill('order value <= 9000')
  await plan.getByLabel('Name of the plan').fill('Morning cross')

  // The other side is made of the first, opens the other way, and is taken away again.
  await plan.getByRole('button', { name: 'Add the other side' }).click()
  await expect(plan.getByRole('textbox', { name: 'Condition, other side' })).toContainText('crosses below')
  await expect(plan.getByLabel('Opens, other side')).toHaveValue('Short')
  await page.getByLabel('Side', { exact: true }).selectOption('other side')
  await expect(found).toContainText(/below sma\(close, 13\)/)
  await plan.getByLabel('Opens', { exact: true }).selectOption('sell short')
  await expect(plan.getByLabel('Opens, other side')).toHaveValue('Long')
  await plan.getByLabel('Opens', { exact: true }).selectOption('buy')
  await plan.getByRole('button', { name: 'Take the other side away' }).click()

  await plan.getByRole('button', { name: 'Watch' }).click()
  await expect(plan).toContainText(
    'Version 1, watching in paper PAPER-1: sends nothing · runs in this tab, and goes on if it is loaded again',
  )
  await demo.request('POST', '/paper/market-time', { sessionTakes: 60, running: true })
  await expect(plan.getByRole('list', { name: 'What it did' })).toContainText(/would send Buy \d+/, {
    timeout: 60_000,
  })
  expect(await demo.request<Order[]>('GET', '/paper/orders?which=all')).toEqual([])

  // What is changed while it runs is another version.
  await plan.getByLabel('Size', { exact: true }).fill('5')
  await expect(plan.getByRole('list', { name: 'Changed since' })).toContainText(
    'is now “buy shares for 5 % of equity, where limits leave less at least 20 % of that, at the market',
  )
  await demo.request('POST', '/paper/market-time', { jumpTo: 'open' })
  await demo.request('POST', '/paper/market-time', { running: false })
  await plan.getByRole('button', { name: 'Arm in paper PAPER-1 …' }).click()
  const asked = page.getByRole('dialog', { name: 'Arm Morning cross in paper PAPER-1?' })
  await expect(asked).toContainText('At most 4 entries a day.')
  await asked.getByRole('button', { name: 'Arm in paper' }).click()
  await expect(plan).toContainText('Version 2, armed in paper PAPER-1: acts on its own')
  await demo.request('POST', '/paper/market-time', { sessionTakes: 60, running: true })
  await expect(plan.getByRole('list', { name: 'What it did' })).toContainText(/Buy \d+ [A-Z]+ at/, {
    timeout: 60_000,
  })
  await expect(page.getByRole('link', { name: '1 plan armed' })).toBeVisible()
  // It goes on while another section is looked at, and standing down ends it.
  await page.getByRole('link', { name: 'Desk' }).click()
  await page.getByRole('button', { name: 'Stand down' }).click()
  const standing = page.getByRole('dialog', { name: 'Stand down' })
  await expect(standing).toContainText('1 plan that runs in this browser is stopped')
  await standing.getByLabel('Stand down from').selectOption('the plan Morning cross alone')
  await expect(standing).toContainText(
    'Morning cross is stopped, and its entries that still work are taken back',
  )
  await standing.getByLabel(/Also close \d+ position/).check()
  await standing.getByRole('button', { name: 'Stand down' }).click()
  await expect(page.getByText(/being closed; stopped: Morning cross/)).toBeVisible()
  await page.getByRole('link', { name: 'Plan', exact: true }).click()
  await expect(plan).toContainText('A draft: nothing looks at the market for it')
  const [first] = (await demo.request<Order[]>('GET', '/paper/orders?which=all')).filter(
    ({ role, clOrdId }) => role === 'Entry' && !clOrdId.startsWith('stand-down-'),
  )
  expect(first.clOrdId).toMatch(/^p\.[a-z2-7]{26}$/)
  expect(first.origin).toMatchObject({ from: 'Plan', name: 'Morning cross', version: '2' })
  await page.reload()
  await expect(plan.getByLabel('Name of the plan')).toHaveValue('Morning cross')
})

test('an event waits for points and for an answer; what became of it stands in the seen book', async ({
  page,
  own: demo,
}) => {
  await page.goto(`${demo.url}/plan`)
  await page.getByRole('button', { name: '+ First announcement' }).click()
  const plan = page.getByRole('region', { name: 'Plan', exact: true })
  await write(plan.getByRole('textbox', { name: 'Condition' }), 'close > 0')
  // Of four lines of the card the trader's own is kept, and another that nobody tells.
  for (let i = 0; i < 2; i++) await plan.getByRole('button', { name: 'Take the line away, line 1' }).click()
  await plan.getByLabel('Least score').fill('3')
  await plan.getByText('5 events in its list').click()
  const { now } = (await demo.request('GET', '/paper/market-time')) as { now: string }
  const soon = new Date(Date.parse(now) + 180_000).toISOString()
  const events = plan.getByLabel('Events', { exact: true })
  await events.fill('key,symbol,at,text\nh-1,OSPRY,today,Lantern renewal')
  await events.blur()
  await expect(plan.getByRole('alert')).toContainText('Line 2: at is no moment with an offset')
  await events.fill(`key,symbol,at,text\nh-1,OSPRY,${soon},Lantern renewal`)
  await events.blur()
  await expect(plan.getByRole('alert')).toBeHidden()
  await plan.getByLabel('Oldest quote').fill('600')
  await plan.getByRole('button', { name: 'Arm in paper PAPER-1 …' }).click()
  const dialog = page.getByRole('dialog')
  await expect(dialog).toContainText('At most 3 entries a day.')
  await expect(dialog).toContainText('Its condition holds now for')
  // The event comes while the plan is still being begun.
  let come = () => {}
  const comes = new Promise<void>((resolve) => (come = resolve))
  await page.route(/\/api\/demo\/token$/, (route) => comes.then(() => route.continue()))
  await dialog.getByRole('button', { name: 'Arm in paper' }).click()
  await expect(dialog).toBeHidden()
  await demo.request('POST', '/paper/market-time', { sessionTakes: 300, running: true })
  const passed = async () =>
    Date.parse((await demo.request<{ now: string }>('GET', '/paper/market-time')).now) > Date.parse(soon)
  await expect.poll(passed).toBe(true)
  come()
  const waits = page.getByRole('region', { name: 'Waits for you' })
  await expect(waits).toContainText('OSPRY, h-1: waits for my reading, size of the contract')
  await waits.getByLabel('Points for my reading').fill('3')
  await waits.getByRole('button', { name: 'Give points' }).click()
  await expect(waits.getByRole('alert')).toContainText(/Buy \d+ OSPRY\?/)
  await waits.getByRole('button', { name: 'Send it' }).click()
  await expect(plan.getByLabel('What it did')).toContainText(/Buy \d+ OSPRY at/)
  await plan.getByText('1 in its seen book').click()
  await expect(plan.getByLabel('What became of h-1')).toHaveValue('Filled')
  await plan.getByLabel('Note on h-1').fill('read it myself')
  await plan.getByRole('button', { name: 'Stop', exact: true }).click()
  await plan.getByText('1 in its seen book').click()
  await expect(plan.getByLabel('Note on h-1')).toHaveValue('read it myself')
})

test('a second tab takes a plan over when the first is closed; a tab that is opened soon after goes on with it', async ({
  page,
  own: demo,
}) => {
  await page.goto(`${demo.url}/plan`)
  await page.getByRole('button', { name: '+ Fast over slow' }).click()
  const region = (of: typeof page) => of.getByRole('region', { name: 'Plan', exact: true })
  await region(page).getByRole('button', { name: 'Watch' }).click()
  await expect(region(page)).toContainText('Version 1, watching in paper PAPER-1: sends nothing')
  const second = await page.context().newPage()
  await second.goto(`${demo.url}/plan`)
  await expect(region(second)).toContainText(
    /Watching in paper PAPER-1, version 1, in the tab that was opened at/,
  )
  // What is begun here runs there too: plans of one account share what they keep back.
  await second.getByText('New: through the day').click()
  await second.getByRole('button', { name: '+ Through the middle', exact: true }).click()
  await region(second).getByRole('button', { name: 'Watch' }).click()
  await expect(region(second)).toContainText(
    /Watching in paper PAPER-1, version 1, in the tab that was opened at/,
  )
  const plans = page.getByRole('navigation', { name: 'Plans' })
  await plans.getByRole('button', { name: /^Through the middle/ }).click()
  await expect(region(page)).toContainText('Version 1, watching in paper PAPER-1: sends nothing')
  // And can be ended from there.
  await region(second).getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(region(page)).toContainText('A draft: nothing looks at the market for it')
  await second
    .getByRole('navigation', { name: 'Plans' })
    .getByRole('button', { name: /^Fast over slow/ })
    .click()
  await page.close()
  await expect(region(second)).toContainText('Version 1, watching in paper PAPER-1: sends nothing')
  await second.close()
  const third = await second.context().newPage()
  await third.goto(`${demo.url}/plan`)
  await expect(third.getByText('The tab was closed or loaded again: Fast over slow went on')).toBeVisible()
  await expect(region(third)).toContainText('Version 1, watching in paper PAPER-1: sends nothing')
})
