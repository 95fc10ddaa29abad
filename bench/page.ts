import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type BrowserContext, chromium, type Page } from '@playwright/test'
import { CHROMIUM } from '../e2e/chromium'
import { withDemo } from './demo'
import { type Line, lineOf } from './measure'

/** The scan is over: there is a result, and another can be asked for. */
async function scanned(page: Page): Promise<void> {
  await page.getByTestId('summary').waitFor({ timeout: 240_000 })
  await page.getByRole('button', { name: 'Scan', exact: true }).waitFor({ timeout: 240_000 })
}

/** Milliseconds since 1970, to less than one of them, as pages on this machine count them too. */
const now = () => performance.timeOrigin + performance.now()

/** Has a page write down when its first row was drawn; to ask for it again and again from outside is too coarse. */
const WATCH = `new MutationObserver(function (_, watch) {
  if (!document.querySelector('tbody tr')) return
  watch.disconnect()
  // Behind the frame that shows it.
  requestAnimationFrame(function () {
    setTimeout(function () { window.firstRow = performance.timeOrigin + performance.now() })
  })
}).observe(document, { childList: true, subtree: true })`

/** Milliseconds until the first row of a result stands on the screen, from the moment the page is asked for. */
async function firstRows(context: BrowserContext, url: string, all = false): Promise<number> {
  const page = await context.newPage()
  await page.addInitScript(WATCH)
  const began = now()
  await page.goto(`${url}/find`, { waitUntil: 'commit' })
  const row = await page.waitForFunction(() => (window as { firstRow?: number }).firstRow, undefined, {
    timeout: 240_000,
  })
  const at = (await row.jsonValue())!
  if (all) await scanned(page)
  const took = (all ? now() : at) - began
  await page.close()
  return took
}

/** Visits after which a browser keeps the compiled code of a page. */
const VISITS = 2

/** A visit after which everything that a browser keeps of it is kept. */
async function visit(context: BrowserContext, url: string): Promise<void> {
  const page = await context.newPage()
  await page.goto(`${url}/find`)
  await scanned(page)
  await page.waitForTimeout(1_500)
  await page.close()
}

/**
 * Times of the first rows in a browser that has never been here, and in the same one later; the least counts. Each has
 * a profile on disk, as a trader's has: a private window would keep no compiled code.
 */
async function loads(name: string, securities: string, runs: number, all: boolean): Promise<Line[]> {
  return withDemo(securities === '' ? {} : { HERON_SECURITIES: securities }, async ({ url }) => {
    const [cold, later]: number[][] = [[], []]
    for (let k = 0; k < runs; k++) {
      const profile = mkdtempSync(join(tmpdir(), 'heron-profile-'))
      const context = await chromium.launchPersistentContext(profile, {
        ...CHROMIUM,
        viewport: { width: 1280, height: 800 },
      })
      try {
        cold.push(await firstRows(context, url))
        for (let n = 0; n < VISITS; n++) await visit(context, url)
        later.push(await firstRows(context, url, all))
      } finally {
        await context.close()
        rmSync(profile, { recursive: true, force: true })
      }
    }
    const least = (what: string, times: number[]): Line => ({
      ...lineOf(`${what}, best of ${runs}`, times, 'ms', undefined),
      median: Math.round(Math.min(...times)),
      baseline: `median ${Math.round([...times].sort((a, b) => a - b)[times.length >> 1])} ms`,
      ratio: 1,
    })
    return [
      least(`first rows of a cold load, ${name}`, cold),
      least(`${all ? 'all' : 'first'} rows of a later load, ${name}`, later),
    ]
  })
}

/** How soon rows stand there; needs `npm run build` to have been run. */
export const benchPage = async (): Promise<Line[]> => loads('193 securities', '', 5, false)

/** The same in a large market. */
export const benchLargePage = async (): Promise<Line[]> => loads('8,000 securities', '8000', 2, true)
