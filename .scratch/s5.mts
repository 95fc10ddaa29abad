export default async (page) => {
  const browser = page.context().browser()
  for (let round = 0; round < 3; round++) {
  const ctx = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  const p = await ctx.newPage()
  const cdp = await ctx.newCDPSession(p)
  if (round === 2) { await cdp.send('Profiler.enable'); await cdp.send('Profiler.setSamplingInterval', { interval: 500 }); await cdp.send('Profiler.start') }
  const marks: string[] = []
  const t0 = Date.now()
  p.on('requestfinished', (r) => { if (/4312|token/.test(r.url())) marks.push(`${Date.now() - t0} ${r.method()} ${new URL(r.url()).pathname} ${r.url().length}`) })
  await p.goto('http://127.0.0.1:4310/find', { waitUntil: 'commit' })
  console.log('commit', Date.now() - t0)
  await p.locator('tbody tr').first().waitFor()
  console.log('rows', Date.now() - t0)
  if (round === 2) {
    const { profile } = await cdp.send('Profiler.stop')
    const byId = new Map(profile.nodes.map((n) => [n.id, n]))
    const self = new Map<string, number>()
    profile.samples!.forEach((id, i) => { const f = byId.get(id)!.callFrame; const k = f.functionName + ' ' + f.url.split('/').at(-1) + ':' + f.lineNumber + ':' + f.columnNumber; self.set(k, (self.get(k) ?? 0) + profile.timeDeltas![i] / 1000) })
    console.log([...self].sort((a, b) => b[1] - a[1]).slice(0, 25).map(([k, v]) => v.toFixed(0) + ' ' + k).join('\n'))
  }
  console.log(marks.join('\n'))
  await ctx.close()
  }
}
