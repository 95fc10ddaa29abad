import { chromium } from '@playwright/test'
import { Demo } from '../e2e/app'
import { CHROMIUM } from '../e2e/chromium'
const demo = new Demo()
await demo.start()
const browser = await chromium.launch(CHROMIUM)
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  page.on('console', (m) => m.type() === 'error' && console.log('console', m.text().slice(0, 300)))
  page.on('pageerror', (e) => console.log('pageerror', e.message.slice(0, 400)))
  await page.goto(`${demo.url}/plan`)
  await page.getByRole('button', { name: '+ Fast over slow' }).click()
  await page.getByRole('list', { name: 'Clauses' }).waitFor()
  await page.waitForTimeout(5000)
  await page.screenshot({ path: '/tmp/p1.png' })
  await demo.request('POST', '/paper/market-time', { sessionTakes: 120, running: true })
  await page.getByRole('button', { name: 'Arm in paper …' }).click()
  await page.waitForTimeout(500)
  await page.screenshot({ path: '/tmp/p2.png' })
  await page.getByRole('button', { name: 'Arm in paper', exact: true }).click()
  await page.waitForTimeout(22000)
  await page.screenshot({ path: '/tmp/p3.png' })
} finally {
  await browser.close()
  await demo.stop()
  demo.remove()
}
