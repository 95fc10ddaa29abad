import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { chromium, type Page } from '@playwright/test'
import { barsFile, Demo, writePutSpread } from '../e2e/app'
import { CHROMIUM } from '../e2e/chromium'

/**
 * One picture of each main view in docs/screenshots/, made from the demo data: run after a view has changed.
 */
const OUT = 'docs/screenshots'
const RULE = 'close crosses above highest(earlier(close, 1 bar), 20) and volume > 1.2 * sma(volume, 20)'

const demo = new Demo()
mkdirSync(OUT, { recursive: true })
await demo.start()
const browser = await chromium.launch(CHROMIUM)
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  const shot = (name: string) => page.screenshot({ path: join(OUT, `${name}.png`) })
  await find(page)
  await shot('find')
  await before(page)
  await shot('history')
  await ballot(page)
  await shot('ballot')
  await builder(page)
  await shot('builder')
  await fresh(page)
  await shot('freshness')
  await drawn(page)
  await shot('look-drawn')
  await find(page)
  await look(page)
  await shot('look')
  await page.emulateMedia({ colorScheme: 'dark' })
  await page.waitForTimeout(500)
  await shot('look-night')
  await page.emulateMedia({ colorScheme: 'light' })
  await desk(page)
  await shot('desk')
  await options(page)
  await shot('options')
  await sheet(page)
  await shot('sheet')
  await plan(page)
  await shot('plan')
  await data(page)
  await shot('data')
} finally {
  await browser.close()
  await demo.stop()
  demo.remove()
}

async function find(page: Page): Promise<void> {
  await page.goto(`${demo.url}/find`)
  await page.getByRole('textbox', { name: 'Rule' }).click()
  await page.keyboard.press('ControlOrMeta+a')
  await page.keyboard.insertText(RULE)
  await page.keyboard.press('ControlOrMeta+Enter')
  await page.getByText(/of 193 meet it/).waitFor()
  await page.getByText(/times in 1,/).waitFor()
  await page.waitForTimeout(600)
}

async function before(page: Page): Promise<void> {
  await page.getByText('When it was true before').click()
  await page.getByRole('table', { name: 'What followed' }).waitFor()
  await page.waitForTimeout(600)
}

async function ballot(page: Page): Promise<void> {
  await page.getByText('Ballot', { exact: true }).click()
  await page.getByRole('grid', { name: 'Ballot' }).waitFor()
  await page.waitForTimeout(600)
}

async function builder(page: Page): Promise<void> {
  await page.getByText('Who meets it').click()
  await page.getByRole('button', { name: 'builder' }).click()
  await page.getByRole('button', { name: 'Drag to another place' }).first().waitFor()
  await page.waitForTimeout(600)
}

async function fresh(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'text', exact: true }).click()
  await page.goto(`${demo.url}/data`)
  await page.getByRole('gridcell', { name: '1 day', exact: true }).click()
  await page.getByRole('table', { name: 'Last bars of 1 day' }).waitFor()
  await page.waitForTimeout(600)
}

async function drawn(page: Page): Promise<void> {
  await page.goto(`${demo.url}/look/OSPRY`)
  const chart = page.getByRole('img', { name: /Chart of/ })
  await chart.first().waitFor()
  await page.getByRole('button', { name: /^Bars: / }).click()
  await page.getByRole('button', { name: '5 min', exact: true }).click()
  await page.waitForTimeout(1500)
  await page.getByRole('button', { name: /^measures/ }).click()
  await page.getByRole('button', { name: 'opening range' }).click()
  await page.getByRole('button', { name: 'session before' }).click()
  await page.keyboard.press('Escape')
  const box = (await chart.first().boundingBox())!
  for (const [tool, ...places] of [
    ['level', [300, 60]],
    ['zone', [300, 150], [320, 175]],
    ['dividers', [150, 200], [420, 90]],
  ] as [string, ...[number, number][]][]) {
    await page.getByRole('button', { name: tool, exact: true }).click()
    for (const [x, y] of places) await page.mouse.click(box.x + x, box.y + y)
    await page.waitForTimeout(300)
  }
  await page.waitForTimeout(1200)
}

async function look(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Look closer' }).click()
  await page.getByRole('img', { name: /Chart of/ }).waitFor()
  await page.getByRole('button', { name: 'Make it an order' }).click()
  await page.getByText('Loses at the stop').waitFor()
  await page.waitForTimeout(1200)
}

/** A credit spread as it is written, with its dry run. */
async function options(page: Page): Promise<void> {
  await demo.request('POST', '/paper/accounts', {
    ...{ account: 'SPREADS', cash: 20_000, currency: 'USD', margin: true, optionLevel: 3 },
  })
  await page.goto(`${demo.url}/look/GANET`)
  await page.getByRole('button', { name: /^Paper/ }).click()
  await page.getByRole('menuitem', { name: 'Accounts …' }).click()
  await page.getByRole('button', { name: 'Use SPREADS' }).click()
  const ticket = await writePutSpread(page, '200', '190')
  await ticket.getByRole('button', { name: 'Check only' }).click()
  await ticket.getByText('It would be taken').waitFor()
  await page.waitForTimeout(500)
}

async function desk(page: Page): Promise<void> {
  const exits = { stop: { percent: 3 }, target: { percent: 7 } }
  const send = (order: object) =>
    demo.request('POST', '/paper/orders', { side: 'Buy', ordType: 'Market', timeInForce: 'Day', ...order })
  await send({ clOrdId: 'desk-1', symbol: 'BUOYS', orderQty: 161, exits })
  await send({ clOrdId: 'sheet-1', symbol: 'HERRG', orderQty: 400, exits, text: 'first of the month' })
  await send({ clOrdId: 'desk-2', symbol: 'KIPPR', orderQty: 30, ordType: 'Limit', price: 60, exits })
  await send({ clOrdId: 'desk-3', symbol: 'OSPRY', orderQty: 90_000 })
  for (const [symbol, side, orderQty] of [
    ['GANET', 'Buy', 10],
    ['TERNW', 'SellShort', 12],
  ] as const)
    await send({ clOrdId: `pair-${symbol}`, symbol, side, orderQty, group: 'chips-lasers' })
  await demo.script('--send')
  await page.goto(`${demo.url}/desk?order=desk-1`)
  await page.getByText('cancels with the stop').first().waitFor()
  await page.waitForTimeout(1500)
}

async function sheet(page: Page): Promise<void> {
  const path = join(demo.dataDir, 'monday.csv')
  writeFileSync(
    path,
    `symbol,side,quantity,type,price,good for,stop,target
GANET,buy,0.8% risk,market,,day,3%,7%
TERNW,buy,40,limit,57.205,day,,
CHNDL,buy,10% equity,limit,24.40,GoodTillCancel,40 ticks,$26.50
HERRG,sell,many,,,,,
`,
  )
  await page.goto(`${demo.url}/sheet`)
  await page.getByLabel('Choose a file').setInputFiles(path)
  await page.getByText(/ready, costing/).waitFor()
  await page.waitForTimeout(800)
}

/** A plan as it is written, with what each clause finds. */
async function plan(page: Page): Promise<void> {
  await page.goto(`${demo.url}/plan`)
  await page.getByRole('button', { name: '+ Fast over slow' }).click()
  await page.getByText('largest order: order value').waitFor()
  await page.getByRole('textbox', { name: 'Condition' }).waitFor()
  await page.waitForTimeout(4500)
}

async function data(page: Page): Promise<void> {
  const path = join(demo.dataDir, 'valley.csv')
  writeFileSync(path, barsFile())
  await page.goto(`${demo.url}/data`)
  await page.getByLabel('Choose CSV files').setInputFiles(path)
  await page.getByText(/good lines/).waitFor()
  await page.waitForTimeout(500)
}
