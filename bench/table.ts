import { type ChildProcess, spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { chromium } from '@playwright/test'
import { CHROMIUM } from '../e2e/chromium'
import { freePort } from './order'
import { type Line, lineOf } from './measure'

/**
 * 8,000 rows of a scan's result in the browser: from the click on a header until the sorted rows are drawn. Starts
 * the demo large; needs `npm run build` to have been run.
 */
export async function benchTable(): Promise<Line[]> {
  const dataDir = mkdtempSync(join(tmpdir(), 'heron-bench-'))
  const [port, brokerPort] = [await freePort(), await freePort()]
  const demo: ChildProcess = spawn(process.execPath, ['scripts/demo.mjs'], {
    env: {
      ...process.env,
      PORT: String(port),
      HERON_BROKER_PORT: String(brokerPort),
      HERON_DATA: dataDir,
      HERON_SECURITIES: '8000',
    },
    stdio: 'ignore',
  })
  try {
    const url = `http://127.0.0.1:${port}`
    for (let k = 0; k < 300; k++) {
      const up = await fetch(`${url}/find`).then(
        (answer) => answer.ok,
        () => false,
      )
      if (up) break
      await new Promise((resolve) => setTimeout(resolve, 200))
    }
    const browser = await chromium.launch(CHROMIUM)
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
    await browser.close()
    return [lineOf('8,000 rows sorted and drawn in the browser', times, 'ms', undefined)]
  } finally {
    demo.kill('SIGTERM')
    await new Promise((resolve) => demo.once('exit', resolve))
    rmSync(dataDir, { recursive: true, force: true })
  }
}
