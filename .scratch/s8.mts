export default async (page) => {
  const ctx = await page.context().browser().newContext({ viewport: { width: 1280, height: 800 } })
  for (let round = 0; round < 3; round++) {
    const p = await ctx.newPage()
    const cdp = await ctx.newCDPSession(p)
    if (round === 2) { await cdp.send('Profiler.enable'); await cdp.send('Profiler.setSamplingInterval', { interval: 300 }); await cdp.send('Profiler.start') }
    const t0 = Date.now()
    await p.goto('http://127.0.0.1:4310/find', { waitUntil: 'commit' })
    await p.locator('tbody tr').first().waitFor()
    console.log('rows', Date.now() - t0)
    if (round === 2) {
      const { profile } = await cdp.send('Profiler.stop')
      const byId = new Map(profile.nodes.map((n) => [n.id, n]))
      const parent = new Map(); for (const n of profile.nodes) for (const c of n.children ?? []) parent.set(c, n.id)
      // timeline in 100 ms buckets: top function by self
      let t = 0; const buckets: Record<number, Map<string, number>> = {}
      profile.samples!.forEach((id, i) => { t += profile.timeDeltas![i] / 1000; const b = Math.floor(t / 100); const f = byId.get(id)!.callFrame; const k = f.functionName + ' ' + f.url.split('/').at(-1)!.slice(0, 14) + ':' + f.columnNumber; (buckets[b] ??= new Map()).set(k, (buckets[b].get(k) ?? 0) + profile.timeDeltas![i] / 1000) })
      for (const [b, m] of Object.entries(buckets)) console.log(Number(b) * 100, [...m].sort((a, c) => c[1] - a[1]).slice(0, 4).map(([k, v]) => `${v.toFixed(0)} ${k}`).join(' | '))
    }
    await p.close()
  }
}
