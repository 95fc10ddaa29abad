export default async (page) => {
  const got: [string, number][] = []
  page.on('response', async (r) => { try { const b = await r.body(); got.push([r.url().replace(/.*_next\/static\//, '').slice(0, 90), b.length]) } catch {} })
  await page.goto('http://127.0.0.1:4310/find')
  await page.waitForTimeout(6000)
  got.sort((a, b) => b[1] - a[1])
  console.log(got.reduce((s, g) => s + g[1], 0), got.length)
  for (const g of got.slice(0, 30)) console.log(g[1], g[0])
}
