export default async (page, shot) => {
  await page.goto('http://127.0.0.1:4310/look/BUOYS')
  await page.waitForTimeout(3500)
  await shot('look')
  await page.getByRole('button', { name: /order/i }).first().click().catch((e) => console.log('no order button'))
  await page.waitForTimeout(1200)
  await shot('ticket')
}
