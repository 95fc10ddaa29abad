export default async (page, shot) => {
  const t = Date.now()
  await page.goto('http://127.0.0.1:4310/find')
  await page.getByRole('grid').or(page.locator('[role=row]')).first().waitFor({ timeout: 30000 }).catch((e) => console.log('no rows', e.message.slice(0, 80)))
  console.log('rows after', Date.now() - t)
  await page.waitForTimeout(2500)
  await shot('find')
}
