import { type BrowserContext } from '@playwright/test'
import { withDemo } from './demo'
import { type Line, lineOf } from './measure'

/** Milliseconds until the first row of a result stands on the screen, from the moment the page is asked for. */
async function firstRows(context: BrowserContext, url: string, all = false): Promise<number> {
  const page = await context.newPage()
  const began = performance.now()
  await page.goto(`${url}/find`, { waitUntil: 'commit' })
  await page.locator('tbody tr').first().waitFor({ timeout: 240_000 })
  if (all) await page.getByTestId('summary').waitFor({ timeout: 240_000 })
  const took = performance.now() - began
  await page.close()
  return took
}

/** Times of the first rows in browsers that have never been here, and of pages that were open before; the least counts. */
async function loads(name: string, securities: string, runs: number, all: boolean): Promise<Line[]> {
  return withDemo(securities === '' ? {} : { HERON_SECURITIES: securities }, async ({ url, browser }) => {
    const [cold, later]: number[][] = [[], []]
    for (let k = 0; k < runs; k++) {
      const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
      cold.push(await firstRows(context, url))
      // What came is kept before it is asked for again.
      const page = await context.newPage()
      await page.goto(`${url}/find`)
      await page.getByTestId('summary').waitFor({ timeout: 240_000 })
      await page.close()
      later.push(await firstRows(context, url, all))
      await context.close()
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
