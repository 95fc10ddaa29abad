import { withDemo } from './demo'
import { type Line, lineOf } from './measure'

/**
 * 8,000 rows of a scan's result in the browser: from the click on a header until the sorted rows are drawn. Starts
 * the demo large; needs `npm run build` to have been run.
 */
export async function benchTable(): Promise<Line[]> {
  return withDemo({ HERON_SECURITIES: '8000' }, async ({ url, browser }) => {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
    page.setDefaultTimeout(240_000)
    await page.goto(`${url}/find`)
    await page.getByTestId('summary').waitFor()
    await page.getByRole('textbox', { name: 'Rule' }).click()
    await page.keyboard.press('ControlOrMeta+a')
    await page.keyboard.insertText('close > 0')
    await page.keyboard.press('ControlOrMeta+Enter')
    await page.getByText(/7,9\d\d of 7,9\d\d meet it/).waitFor()
    await page.waitForTimeout(2_000)
    const times = await page.evaluate(async () => {
      const headers = [...document.querySelectorAll<HTMLButtonElement>('thead button')].slice(0, 4)
      const out: number[] = []
      for (let k = 0; k < 24; k++) {
        const began = performance.now()
        headers[k % headers.length].click()
        await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))
        out.push(performance.now() - began)
      }
      return out.slice(4)
    })
    return [lineOf('8,000 rows sorted and drawn in the browser', times, 'ms', undefined)]
  })
}
