import { readFileSync } from 'node:fs'
import { type Page } from '@playwright/test'
import { expect, oneWindow, scan, summary, test, write } from './app'

/** Begins a plan from an example; once there are plans, examples are folded away. */
async function begin(page: Page, kind: string, example: string): Promise<void> {
  const folded = page.locator('details', { hasText: `New: ${kind}` })
  const button = page.getByRole('button', { name: `+ ${example}`, exact: true })
  await expect(folded.or(button).first()).toBeVisible()
  if (await folded.count()) await folded.evaluate((details: HTMLDetailsElement) => void (details.open = true))
  await button.click()
}

test.describe('what a plan says', () => {
  const shares = oneWindow('/plan')

  test('pairs and levels are written in the sentence, and change the plan', async () => {
    const { page } = shares
    await page.getByRole('button', { name: '+ Two of a kind' }).click()
    const plan = page.getByRole('region', { name: 'Plan', exact: true })
    await expect(page.getByRole('list', { name: 'Clauses' })).toContainText('is on the list')
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

  test('pairs come from a search, a value stands at numbers of clauses, a stop becomes a limit', async () => {
    const { page } = shares
    await begin(page, 'through the day', 'Fast over slow')
    const plan = page.getByRole('region', { name: 'Plan', exact: true })
    const act = (name: string) => plan.getByRole('button', { name, exact: true }).click()
    const blank = (name: string) => plan.getByLabel(name, { exact: true })
    await act('Stop at a limit')
    await blank('Limit beyond the stop').fill('4')
    await act('Bound the hours')
    await act('Add an input')
    await blank('Value of value_1').fill('0.9')
    await blank('Where value_1 stands as well').selectOption({ label: 'at Then: exits, stop, percent (1.2)' })
    await expect(blank('Stop')).toHaveValue('0.9')
    await expect(plan.getByRole('button', { name: 'Take value_1 away from' })).toHaveCount(1)
    await blank('Value of value_1').fill('1.7')
    await expect(blank('Stop')).toHaveValue('1.7')
    // What is written by hand is the value's no more.
    await blank('Stop').fill('1.1')
    await expect(plan.getByRole('button', { name: 'Take value_1 away from' })).toHaveCount(0)
    const evidence = page.getByRole('region', { name: 'Evidence' })
    await expect(evidence.getByText('within its hours', { exact: false })).toBeVisible()
    await expect(evidence.getByRole('img', { name: /out 15:50/ })).toBeVisible()
    await blank('Looks at').selectOption('pairs')
    await act('Take pairs from a search')
    await blank('Looks through for pairs').selectOption('the members of Brackwater All-Share')
    await expect(blank('Looks through for pairs')).toHaveValue('index Brackwater All-Share')
    await blank('At most so many pairs').fill('3')
    await blank('Correlation at least').fill('0.999')
    await act('Look for pairs')
    await expect(plan.getByRole('alert')).toContainText('ask for less correlation')
    await blank('Correlation at least').fill('0.2')
    await act('Look for pairs')
    await expect(plan.getByText('as of 2026-03-16', { exact: false })).toBeVisible()
    await expect(blank('Pairs')).toHaveValue(/^[A-Z]+\/[A-Z]+(, [A-Z]+\/[A-Z]+){0,2}$/)
    await expect(evidence.getByLabel('Tried on')).toHaveValue(/^[A-Z]+$/)
    // Asked in other terms, it has not been looked for yet.
    await blank('Correlation at least').fill('0.99')
    await expect(plan.getByText('not looked for yet')).toBeVisible()

    // A blank keeps what it cannot take and says why; what is thrown away can be had back.
    for (const [typed, why] of [
      ['1,000', 'write 1000'],
      ['1,5', 'write 15 or 1.5'],
      ['-5', 'write a number above 0'],
      ['1e308', 'the number is too large'],
    ]) {
      await blank('Size').fill(typed)
      await blank('Size').blur()
      await expect(blank('Size')).toHaveValue(typed)
      await expect(plan.getByRole('alert').filter({ hasText: why })).toBeVisible()
    }
    const plans = page.getByRole('navigation', { name: 'Plans' })
    await blank('Name of the plan').fill('Once more')
    await act('Throw away')
    await expect(plans.getByRole('button', { name: 'Once more' })).toHaveCount(0)
    await page.getByRole('button', { name: 'Undo' }).click()
    await expect(plans.getByRole('button', { name: 'Once more' })).toBeVisible()
  })

  test('exits in parts, a share of the equity and contracts together are written in the sentence', async () => {
    const { page } = shares
    await begin(page, 'through the day', 'Fast over slow')
    const plan = page.getByRole('region', { name: 'Plan', exact: true })
    await plan.getByRole('button', { name: 'Leave in parts' }).click()
    await plan.getByLabel('Share of part 1').fill('60')
    await plan.getByLabel('Stop of part 2 is measured in').selectOption('% behind the best price')
    await plan.getByLabel('Of which equity').selectOption('(its own share)')
    await expect(page.getByRole('region', { name: 'Evidence' })).toContainText('Never says of no share')
    await plan.getByLabel('Share of the equity').fill('25')
    const evidence = page.getByRole('region', { name: 'Evidence' })
    await expect(evidence.getByLabel('Clauses')).toContainText('share of the plan: $1,')
    await expect(evidence).toContainText(/In its last \d+ bars it began/)

    await plan.getByLabel('Securities', { exact: true }).fill('BUOYS')
    await plan.getByLabel('Opens', { exact: true }).selectOption('open contracts')
    await expect(plan.getByLabel('Strike of leg 4')).toBeVisible()
    await expect(evidence.getByLabel('Clauses')).toContainText('needs option level 3 (spreads)')
    await expect(evidence.getByLabel('Clauses')).toContainText(/a gain once closing it pays \d/)
    await plan.getByRole('button', { name: 'Arm in paper PAPER-1 …' }).click()
    const dialog = page.getByRole('dialog')
    await expect(dialog).toContainText('What it opens needs option level 3')
    await expect(dialog.getByRole('button', { name: 'Arm in paper' })).toBeDisabled()
    await page.keyboard.press('Escape')
  })

  test('the gates of a plan are drawn over the last days, against their limits', async () => {
    const { page } = shares
    await begin(page, 'through the day', 'Fast over slow')
    const evidence = page.getByRole('region', { name: 'Evidence' })
    await evidence.getByText('Its gates over the last days').click()
    await expect(
      evidence.getByRole('img', { name: /held on \d+ of 10 days; quoted spread from .* limit 0\.40/ }),
    ).toBeVisible()
    // Of contracts together by what they were quoted at then.
    await begin(page, 'left running', 'Between the shoals')
    await expect(page.getByLabel('Name of the plan')).toHaveValue('Between the shoals')
    const credit = evidence.getByRole('img', {
      name: /held on \d+ of 10 days; net credit from [\d.]+ to [\d.]+, limit 1\.60/,
    })
    await evidence
      .locator('details', { hasText: 'Its gates' })
      .evaluate((details: HTMLDetailsElement) => void (details.open = true))
    await expect(credit).toBeVisible()
  })
})

test('a plan begins from the hits of a scan, and from a drawn line; a line that is moved is told', async ({
  page,
  demo,
}) => {
  await page.goto(`${demo.url}/find`)
  await expect(summary(page)).toBeVisible()
  await scan(page, 'rsi(14) < 40 and volume > 100k')
  await page.getByRole('button', { name: 'Begin a plan' }).click()
  const begin = page.getByRole('dialog', { name: /^Plan: / })
  // Nothing is filled in unasked, and the search itself is what it looks through.
  await expect(begin.getByRole('button', { name: 'Begin the plan' })).toBeDisabled()
  await expect(begin.getByLabel('For which securities')).toHaveValue('each')
  await begin.getByLabel('What is done').selectOption('buy')
  await begin.getByLabel('Shares', { exact: true }).fill('100')
  await begin.getByLabel('Stop in percent').fill('2')
  await begin.getByRole('button', { name: 'Begin the plan' }).click()
  const plan = page.getByRole('region', { name: 'Plan', exact: true })
  await expect(plan.getByLabel('Name of the plan')).toHaveValue('From a scan')
  await expect(plan.getByRole('textbox', { name: 'Condition' })).toContainText('rsi(14) < 40')
  await expect(plan.getByLabel('Looks', { exact: true })).toHaveValue('Tick')
  await expect(plan.getByLabel('Looks at', { exact: true })).toHaveValue('found')

  // One that was found, where a column of it passes a bound: the bound stands in one place.
  await page.getByRole('link', { name: 'Find', exact: true }).click()
  await scan(page, 'rsi(14) < 40 and volume > 100k')
  await page.getByRole('group', { name: 'Securities that meet the rule' }).press('Home')
  await page.getByLabel(/Plan on [A-Z]+ at a bound/).selectOption('rsi(14)')
  await begin.getByLabel('Which way').selectOption('down')
  await begin.getByLabel('What is done').selectOption('tell')
  await begin.getByRole('button', { name: 'Begin the plan' }).click()
  await expect(plan.getByRole('textbox', { name: 'Condition' })).toContainText('rsi(14) crosses below bound')
  await expect(plan.getByLabel('Value of bound')).toHaveValue(/^[\d.]+$/)

  await page.goto(`${demo.url}/look/OSPRY`)
  const chart = page.getByRole('img', { name: /Chart of/ })
  await expect(page.getByTestId('ballot')).toHaveText(/^[+−]?\d+$/)
  const box = (await chart.boundingBox())!
  await page.getByRole('button', { name: 'level', exact: true }).click()
  await page.mouse.click(box.x + 300, box.y + 80)
  await page.getByRole('button', { name: 'Plan at level 1' }).click()
  await expect(begin).toContainText('When OSPRY')
  await begin.getByLabel('Which way').selectOption('either')
  await begin.getByLabel('What is done').selectOption('tell')
  await begin.getByRole('button', { name: 'Begin the plan' }).click()
  await expect(plan.getByLabel('Name of the plan')).toHaveValue('OSPRY at level 1')
  await expect(plan.getByRole('textbox', { name: 'Condition' })).toContainText('passes(level("level 1"))')
  await expect(page.getByRole('list', { name: 'Clauses' })).toContainText(
    /the price (came|did not come) up or down to/,
  )
  await plan.getByRole('button', { name: 'Watch' }).click()
  await expect(plan).toContainText('Version 1, watching')

  // Moved on its chart: the plan that runs goes on with the old one, and says so.
  await page.getByRole('link', { name: 'Look', exact: true }).click()
  const price = page.getByRole('region', { name: 'Drawn' }).getByLabel('Price')
  await price.fill('9.5')
  await price.press('Enter')
  const warning = page.getByText(
    /goes on with what stood here when it was begun.*is now “level 1 on OSPRY at 9\.50”/,
  )
  await expect(warning).toBeVisible()
  await page.getByRole('button', { name: 'Use it as it stands in OSPRY at level 1' }).click()
  await expect(warning).toBeHidden()
  await page.getByRole('link', { name: 'watching' }).click()
  await expect(plan).toContainText('Version 2, watching')
  await plan.getByRole('button', { name: 'Stop', exact: true }).click()
})

test('a saved scan is what a plan looks through, and says when it has changed', async ({ page, demo }) => {
  await page.goto(`${demo.url}/find`)
  const save = async (rule: string, button: string, told: string) => {
    await scan(page, rule)
    await page.getByRole('button', { name: 'Save the scan' }).click()
    await page.getByLabel('Name of the scan').fill('Over its average')
    await page.getByRole('button', { name: button, exact: true }).click()
    await expect(page.getByText(told)).toBeVisible()
  }
  await save('close > sma(close, 40)', 'Save', 'Saved as “Over its average”.')
  await page.goto(`${demo.url}/plan`)
  await page.getByRole('button', { name: '+ Each morning' }).click()
  const plan = page.getByRole('region', { name: 'Plan', exact: true })
  await plan.getByLabel('Search', { exact: true }).selectOption('the scan Over its average')
  await expect(plan.getByLabel('Rule of the search')).toHaveValue('close > sma(close, 40)')
  await expect(plan).toContainText('Over its average, version 1;')
  await plan.getByLabel('Looks through').selectOption({ index: 1 })
  // By hand it is a search of its own.
  await expect(plan.getByLabel('Search', { exact: true })).toHaveValue('')
  await plan.getByLabel('Search', { exact: true }).selectOption('the scan Over its average')
  await page.getByRole('link', { name: 'Find', exact: true }).click()
  await save('close > sma(close, 30)', 'Save the next version', 'Saved as “Over its average”, version 2.')
  await page.getByRole('link', { name: 'Plan', exact: true }).click()
  await expect(plan).toContainText('it has changed since: version 2 asks “close > sma(close, 30)”')
  await plan.getByRole('button', { name: 'Take the changed scan over' }).click()
  await expect(plan.getByLabel('Rule of the search')).toHaveValue('close > sma(close, 30)')
  await expect(plan).toContainText('Over its average, version 2;')
})

test('a hand that closes what a plan holds keeps it from entering again, until it is handed back', async ({
  page,
  own: demo,
}) => {
  await demo.request('POST', '/paper/market-time', { running: false })
  await page.goto(`${demo.url}/plan`)
  await page.getByRole('button', { name: '+ Fast over slow', exact: true }).click()
  const plan = page.getByRole('region', { name: 'Plan', exact: true })
  const did = plan.getByRole('list', { name: 'What it did' })
  await plan.getByLabel('Securities', { exact: true }).fill('OSPRY')
  const condition = plan.getByRole('textbox', { name: 'Condition' })
  // At once after the other: both are there.
  await write(condition, 'close > 1')
  await plan.getByLabel('Changed by hand').selectOption('StandStill')
  const asked = page.getByRole('dialog', { name: 'Arm Fast over slow in paper PAPER-1?' })
  // Stopped while it is still being begun, it runs no more.
  await plan.getByRole('button', { name: 'Arm in paper PAPER-1 …' }).click()
  await asked.getByLabel('What holds now counts as beginning now').check()
  let goOn: () => void = () => undefined
  const held = new Promise<void>((resolve) => (goOn = resolve))
  await page.route('**/bars?**', (route) => held.then(() => route.continue()))
  await asked.getByRole('button', { name: 'Arm in paper' }).click()
  await plan.getByRole('button', { name: 'Stop', exact: true }).click()
  goOn()
  await page.unrouteAll({ behavior: 'wait' })
  await expect(page.getByText('Fast over slow was stopped before it had begun.')).toBeVisible()
  await expect(plan).toContainText('A draft: nothing looks at the market for it')
  const before = await demo.request<{ clOrdId: string }[]>('GET', '/paper/orders?which=all')
  await demo.request('POST', '/paper/market-time', { step: 600 })
  expect(await demo.request('GET', '/paper/orders?which=all')).toEqual(before)

  await plan.getByRole('button', { name: 'Arm in paper PAPER-1 …' }).click()
  await expect(asked).toContainText('Its condition holds now for OSPRY.')
  await asked.getByLabel('What holds now counts as beginning now').check()
  await asked.getByRole('button', { name: 'Arm in paper' }).click()
  await demo.request('POST', '/paper/market-time', { sessionTakes: 600, running: true })
  await expect(did).toContainText(/Buy \d+ OSPRY at/, { timeout: 120_000 })
  const [{ quantity }] = await demo.request<{ quantity: number }[]>('GET', '/paper/positions')
  await demo.request('POST', '/paper/orders', {
    ...{ clOrdId: 'by-hand', symbol: 'OSPRY', side: 'Sell', orderQty: quantity },
    ...{ ordType: 'Market', timeInForce: 'Day' },
  })
  await expect(did).toContainText('The plan leaves it alone until you hand it back')
  const blocked = plan.getByText('OSPRY: some of it was closed by hand. The plan enters there no more.')
  await expect(blocked).toBeVisible()
  await plan.getByRole('button', { name: 'Hand OSPRY back' }).click()
  await expect(blocked).toBeHidden()
})

test('a plan reads bars of one’s own, which travel in its file; grown, they are a change; a name that nobody has is refused', async ({
  page,
  demo,
}) => {
  const { now } = await demo.request<{ now: string }>('GET', '/paper/market-time')
  const date = (back: number) =>
    new Date(Date.parse(now.slice(0, 10)) - back * 86_400_000).toISOString().slice(0, 10)
  // Within the application, so that what watches goes on.
  const bring = async (days: number) => {
    const rows = Array.from({ length: days }, (_, k) => `${date(20 - k)},30,31,29,30`)
    await page.getByRole('link', { name: /^(data .* old|the market is paused)$/ }).click()
    await page.getByLabel('Choose CSV files').setInputFiles([
      {
        name: 'lull.csv',
        mimeType: 'text/csv',
        buffer: Buffer.from(['date,open,high,low,close', ...rows].join('\n')),
      },
    ])
    await page.getByLabel('Keep them as').fill('Moods')
    await page.getByRole('button', { name: /^Keep/ }).click()
    await expect(summary(page)).toBeVisible()
  }
  const toPlan = () => page.getByRole('link', { name: 'Plan', exact: true }).click()
  await page.goto(`${demo.url}/find`)
  await bring(19)
  await toPlan()
  await page.getByRole('button', { name: '+ Fast over slow' }).click()
  const plan = page.getByRole('region', { name: 'Plan', exact: true })
  const condition = plan.getByRole('textbox', { name: 'Condition' })
  const found = page.getByRole('list', { name: 'Clauses' })
  await write(condition, 'close > 0 and beside("LULL", close) > 20')
  await expect(plan).toContainText('asks for bars of 5 min of LULL, and your own are of 1 day')
  await expect(plan.getByRole('button', { name: 'Watch' })).toBeDisabled()
  await write(condition, 'close > 0 and beside("LULL", on(1 day, close)) > 20')
  await expect(plan).toContainText('It reads LULL from your own 19 bars of 1 day, up to the close of ')
  await expect(found).toContainText('beside("LULL", on(1 day, close)) 30.00 is above 20')
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    plan.getByRole('button', { name: 'File', exact: true }).click(),
  ])
  const { bars } = JSON.parse(readFileSync(await file.path(), 'utf8')) as {
    bars: Record<string, { time: string[] }>
  }
  expect([Object.keys(bars), bars.LULL.time.at(-1)]).toEqual([['LULL'], date(2)])
  await plan.getByRole('button', { name: 'Watch' }).click()
  await expect(plan).toContainText('Version 1, watching')

  await bring(20)
  await page.getByRole('link', { name: /Plan/ }).first().click()
  await expect(plan).toContainText('It reads LULL from your own 20 bars of 1 day')
  await expect(page.getByRole('list', { name: 'Changed since' })).toContainText(
    'Bars: “19 bars of 1 day, up to',
  )
  await plan.getByRole('button', { name: 'Stop', exact: true }).click()

  await write(condition, 'close > 0 and beside("NOWHERE", close) > 20')
  await plan.getByRole('button', { name: 'Arm in paper PAPER-1 …' }).click()
  const asked = page.getByRole('dialog')
  await expect(asked).toContainText('The broker lists no NOWHERE, which its rule text asks about')
  await expect(asked).toContainText('Whether its condition holds now cannot be told.')
  await expect(asked.getByRole('button', { name: 'Arm in paper' })).toBeDisabled()
})
