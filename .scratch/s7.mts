export default async (page) => {
  const ctx = await page.context().browser().newContext({ viewport: { width: 1280, height: 800 } })
  for (let round = 0; round < 4; round++) {
    const p = await ctx.newPage()
    const marks: string[] = []
    const t0 = Date.now()
    p.on('request', (r) => { if (/4312|token|worker/.test(r.url())) marks.push(`${Date.now() - t0} ${r.method()} ${new URL(r.url()).pathname.slice(-40)} ${r.url().length}`) })
    await p.goto('http://127.0.0.1:4310/find', { waitUntil: 'commit' })
    const c = Date.now() - t0
    await p.locator('tbody tr').first().waitFor()
    const r = Date.now() - t0
    const nav = await p.evaluate(() => { const n = performance.getEntriesByType('navigation')[0] as any; return [n.responseEnd, n.domInteractive, n.loadEventEnd, performance.getEntriesByName('first-contentful-paint')[0]?.startTime].map(Math.round).join(' ') })
    console.log('commit', c, 'rows', r, 'nav', nav)
    if (round === 3) console.log(marks.join('\n'))
    await p.close()
  }
}
