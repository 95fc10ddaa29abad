export default async (page) => {
  const got = new Map<string, number>()
  page.on('response', async (r) => { try { const b = await r.body(); if (/static/.test(r.url())) got.set(r.url().replace(/.*_next\/static\//, '').slice(0, 60), b.length) } catch {} })
  await page.goto('http://127.0.0.1:4310/find')
  await page.locator('tbody tr').first().waitFor()
  const all = [...got].sort((a, b) => b[1] - a[1])
  console.log(all.filter((a) => /js$/.test(a[0])).reduce((s, g) => s + g[1], 0), all.length)
  for (const g of all.slice(0, 22)) console.log(g[1], g[0])
}
