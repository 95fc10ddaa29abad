import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import {
  test as base,
  type BrowserContext,
  chromium,
  expect,
  type Locator,
  type Page,
} from '@playwright/test'
import { BROKER_COOKIE } from '../app/brokerCookie'
import { Demo, OwnBroker, running } from './running'

export { Demo } from './running'
export const VIEWPORT = { width: 1280, height: 800 }

/** A browser with a profile, which keeps the compiled code of pages from test to test, so that each starts sooner. */
async function browsing(
  options: Parameters<typeof chromium.launchPersistentContext>[1],
  provide: (context: BrowserContext) => Promise<void>,
): Promise<void> {
  const profile = mkdtempSync(join(tmpdir(), 'heron-profile-'))
  const context = await chromium.launchPersistentContext(profile, options)
  try {
    await provide(context)
  } finally {
    await context.close()
    rmSync(profile, { recursive: true, force: true })
  }
}

/** Takes away all that the application has kept in this browser, these stores of its database apart. */
async function forget(spared: string[]): Promise<void> {
  localStorage.clear()
  sessionStorage.clear()
  const name = 'fleet-heron'
  if (!(await indexedDB.databases()).some((one) => one.name === name)) return
  const db = await new Promise<IDBDatabase>((resolve, reject) => {
    const open = indexedDB.open(name)
    open.onsuccess = () => resolve(open.result)
    open.onerror = () => reject(open.error!)
  })
  const stores = [...db.objectStoreNames].filter((store) => !spared.includes(store))
  const change = db.transaction(stores, 'readwrite')
  for (const store of stores) change.objectStore(store).clear()
  await new Promise((resolve) => (change.oncomplete = resolve))
  db.close()
}

/** Where the browser keeps bars of the market. */
const BARS = 'barChunks'

/** A page of the application's address that shows nothing and keeps nothing. */
const QUIET = '/icon.svg'

/**
 * The tab in which the tests of a worker run one after the other: a new one is a new process, which costs as much again
 * as the page. The tab before it keeps the browser open when a test closes its own.
 */
async function tabOf(context: BrowserContext): Promise<Page> {
  const page = context.pages()[1] ?? (await context.newPage())
  await page.unrouteAll()
  await page.setViewportSize(VIEWPORT)
  await page.emulateMedia({ colorScheme: 'light' })
  return page
}

/** Closes the tabs of a test but one, and takes away what it has kept in the browser, these stores apart. */
export async function clear(context: BrowserContext, spared = [BARS]): Promise<void> {
  const tabs = context.pages().slice(1)
  const origins = new Set(tabs.map((tab) => new URL(tab.url()).origin).filter((origin) => origin !== 'null'))
  for (const tab of tabs.slice(1)) await tab.close()
  const page = await tabOf(context)
  for (const origin of origins) {
    // A demo of the test's own is gone by then, and its port with it.
    const there = await fetch(origin + QUIET).catch(() => undefined)
    await page.goto(there ? origin + QUIET : 'about:blank')
    if (there) await page.evaluate(forget, spared)
  }
}

/** Begins a broker of a test's own, with none of the bars of another in the browser; `end` ends it. */
async function beginOwn(
  demo: Demo,
  context: BrowserContext,
): Promise<{ broker: OwnBroker; end: () => Promise<void> }> {
  const broker = new OwnBroker(demo)
  const end = async () => {
    await context.clearCookies({ name: BROKER_COOKIE })
    await clear(context, [])
    await broker.stop()
    broker.remove()
  }
  try {
    await broker.start()
    const page = await tabOf(context)
    await page.goto(demo.url + QUIET)
    await page.evaluate(forget, [])
    await context.addCookies([{ name: BROKER_COOKIE, value: broker.name, url: demo.url }])
  } catch (error) {
    await end()
    throw error
  }
  return { broker, end }
}

/**
 * A test with the demo running. Tests of a worker share `demo`, the browser and its tab; one that moves the clock, or
 * counts, takes a broker of its `own` for the same pages. Nothing is kept in the browser from one test to the next but the code of pages
 * and bars of the market.
 */
export const test = base.extend<{ own: OwnBroker }, { demo: Demo; shared: BrowserContext }>({
  demo: [({}, provide) => running(new Demo(), provide), { scope: 'worker', timeout: 300_000 }],
  own: [
    async ({ demo, context }, provide) => {
      const { broker, end } = await beginOwn(demo, context)
      await provide(broker)
      await end()
    },
    { timeout: 300_000 },
  ],
  shared: [
    ({ launchOptions }, provide) =>
      browsing({ ...launchOptions, viewport: VIEWPORT, reducedMotion: 'reduce' }, provide),
    { scope: 'worker', timeout: 120_000 },
  ],
  context: async ({ shared }, provide) => {
    await provide(shared)
    await clear(shared)
  },
  page: async ({ context }, provide) => provide(await tabOf(context)),
})
export { expect }

/**
 * Has the tests of a group share a window that is opened once, and where `own` is set a broker of their own: they run one
 * after the other, each from where the one before it has left off.
 */
export function oneWindow(path: string, { own = false } = {}): { page: Page; demo: Demo | OwnBroker } {
  test.describe.configure({ mode: 'default' })
  const shares = {} as { page: Page; demo: Demo | OwnBroker }
  let end: (() => Promise<void>) | undefined
  test.beforeAll(async ({ shared, demo }) => {
    shares.demo = demo
    if (own) ({ broker: shares.demo, end } = await beginOwn(demo, shared))
    shares.page = await tabOf(shared)
    await shares.page.goto(demo.url + path)
  })
  test.afterAll(async ({ shared }) => (end ? end() : clear(shared)))
  return shares
}

/** Replaces the rule text of an editor by keyboard, as a trader does. A selection made by a script may be lost. */
export async function write(editor: Locator, rule: string): Promise<void> {
  const { keyboard } = editor.page()
  await editor.click()
  await keyboard.press('ControlOrMeta+a')
  await keyboard.insertText(rule)
}

/** Writes a rule in the editor in place of what stands there, and scans. */
export async function scan(page: Page, rule: string): Promise<void> {
  await write(page.getByRole('textbox', { name: 'Rule' }), rule)
  await page.keyboard.press('ControlOrMeta+Enter')
}

/** The line that says how many meet the rule. */
export const summary = (page: Page) => page.getByTestId('summary')

/** Closes own menus and goes to a section by its letter. */
export const section = (page: Page, name: string) =>
  page.getByRole('navigation').getByRole('link', { name, exact: true }).click()

/** Goes to the data by the words in the header that say how old it is. */
export const toData = (page: Page) =>
  page
    .getByRole('banner')
    .getByRole('link', { name: /^(data .* old|the market is paused)$/ })
    .click()

/** Goes to a security by the search. */
export async function find(page: Page, symbol: string): Promise<void> {
  await page.keyboard.press('/')
  await page.getByRole('textbox', { name: 'Search' }).fill(symbol)
  await page.keyboard.press('Enter')
  await page.waitForURL(new RegExp(`/look/${symbol}$`))
}

/** Opens the options ticket of the security that is looked at, and writes a put spread for what the market would give. */
export async function writePutSpread(page: Page, written: string, bought: string): Promise<Locator> {
  await page.getByRole('button', { name: /order/i }).first().click()
  await page.getByRole('button', { name: 'Options of it' }).click()
  const ticket = page.getByRole('region', { name: 'Options ticket' })
  await ticket.getByLabel('Expiry of leg 1').selectOption('2026-04-17')
  await ticket.getByLabel('Side of leg 1').selectOption('Sell')
  await ticket.getByLabel('Type of leg 1').selectOption('Put')
  await ticket.getByLabel('Strike of leg 1').selectOption(written)
  await ticket.getByRole('button', { name: 'Add a leg' }).click()
  await expect(ticket).toContainText('Choose expiry and strike of the second leg')
  await ticket.getByLabel('Strike of leg 2').selectOption(bought)
  await ticket.getByRole('button', { name: 'ask for this' }).click()
  return ticket
}

/** Daily bars of some made-up securities in one file, with two bad lines. */
export function barsFile(): string {
  const lines = ['Code,Session,First,Max,Min,Settle,Vol']
  for (const [k, symbol] of ['TARN', 'BECK', 'RILL'].entries()) {
    for (let i = 0; i < 80; i++) {
      const date = new Date(Date.UTC(2025, 11, 1 + i))
      if (date.getUTCDay() % 6 === 0) continue
      const close = 20 + 5 * Math.sin(i / 9 + k) + i / (k + 2)
      const row = [close - 0.2, close + 0.5, close - 0.6, close].map((x) => x.toFixed(2))
      lines.push([symbol, date.toISOString().slice(0, 10), ...row, 1000 * (i + 1)].join(','))
    }
  }
  lines.splice(5, 0, 'TARN,someday,1,1,1,1,1')
  lines.splice(9, 0, 'TARN,2026-01-31,ten,1,1,1,1')
  return lines.join('\n')
}
