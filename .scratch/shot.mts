import { chromium } from 'playwright-core'
const { CHROMIUM } = await import('../e2e/chromium')
const script = await import(process.argv[2])
const browser = await chromium.launch(CHROMIUM as never)
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
page.on('console', (m) => m.type() === 'error' && console.log('console:', m.text().slice(0, 300)))
page.on('pageerror', (e) => console.log('page error:', String(e).slice(0, 400)))
try { await script.default(page, (name: string) => page.screenshot({ path: `/tmp/shots/${name}.png` })) } finally { await browser.close() }
