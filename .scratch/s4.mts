export default async (page, shot) => {
  const run = async (label) => {
    const t = Date.now()
    const reqs: string[] = []
    const on = (r) => { const u = r.url(); if (/4312|api\/demo|worker/.test(u)) reqs.push(`${Date.now() - t} -> ${u.replace(/http:\/\/127.0.0.1:\d+/, '').slice(0, 60)}`) }
    const done = (r) => { const u = r.url(); if (/4312|api\/demo/.test(u)) reqs.push(`${Date.now() - t} <- ${u.replace(/http:\/\/127.0.0.1:\d+/, '').slice(0, 60)}`) }
    page.on('request', on); page.on('requestfinished', done)
    await page.goto('http://127.0.0.1:4310/find', { waitUntil: 'commit' })
    await page.getByText('meet it', { exact: false }).first().waitFor({ timeout: 60000 })
    console.log(label, 'rows after', Date.now() - t)
    const nav = await page.evaluate(() => { const n = performance.getEntriesByType('navigation')[0] as any; return [n.domInteractive, n.domContentLoadedEventEnd, n.loadEventEnd, performance.getEntriesByName('first-contentful-paint')[0]?.startTime] })
    console.log(nav)
    page.off('request', on); page.off('requestfinished', done)
    console.log(reqs.filter((r) => !/stream/.test(r) || /->/.test(r)).slice(0, 30).join('\n'))
  }
  await run('cold')
  await run('later')
}
