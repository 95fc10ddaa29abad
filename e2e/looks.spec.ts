import AxeBuilder from '@axe-core/playwright'
import { expect, summary, test } from './app'

const PAGES = ['/find', '/look/OSPRY', '/desk', '/sheet', '/data']

for (const scheme of ['light', 'dark'] as const) {
  test(`every page passes axe (WCAG 2.2 AA) in the ${scheme} theme`, async ({ page, demo }) => {
    await page.emulateMedia({ colorScheme: scheme })
    for (const path of PAGES) {
      await page.goto(demo.url + path)
      await expect(page.getByRole('banner')).toContainText('is open')
      if (path === '/find') await expect(summary(page)).toBeVisible()
      if (path.startsWith('/look')) {
        await expect(page.getByRole('img', { name: /Chart of/ })).toBeVisible()
        await page.keyboard.press('o')
        await expect(page.getByRole('region', { name: 'Order ticket' })).toContainText('Costs')
      }
      // What still fades in has not the contrast that it will have.
      await page.waitForFunction(() => document.getAnimations().every((a) => a.playState !== 'running'))
      const { violations } = await new AxeBuilder({ page })
        .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
        .analyze()
      const told = violations.map(
        (v) => `${path} ${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(' | ')}`,
      )
      expect(told).toEqual([])
    }
  })
}

test('nothing is cut at 1024, 1280 and 1920 wide', async ({ page, demo }) => {
  for (const width of [1024, 1280, 1920]) {
    await page.setViewportSize({ width, height: 800 })
    for (const path of PAGES) {
      await page.goto(demo.url + path)
      await expect(page.getByRole('banner')).toContainText('is open')
      const over = await page.evaluate(
        () => document.documentElement.scrollWidth - document.documentElement.clientWidth,
      )
      expect(`${path} at ${width}: ${over}`).toBe(`${path} at ${width}: 0`)
      await expect(page.getByRole('button', { name: 'Stand down' })).toBeInViewport({ ratio: 1 })
    }
  }
})

test('sections by letter, search by slash, shortcuts by question mark', async ({ page, demo }) => {
  await page.goto(`${demo.url}/find`)
  await expect(summary(page)).toBeVisible()
  await page.getByRole('banner').click({ position: { x: 900, y: 20 } })
  for (const [key, path] of [
    ['d', '/desk'],
    ['s', '/sheet'],
    ['f', '/find'],
  ]) {
    await page.keyboard.press(key)
    await expect(page).toHaveURL(new RegExp(`${path}$`))
  }
  await page.keyboard.press('/')
  await page.getByRole('textbox', { name: 'Search' }).fill('osprey')
  await page.keyboard.press('Enter')
  await expect(page).toHaveURL(/\/look\/OSPRY$/)
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog', { name: 'What the keyboard does' })).toBeVisible()
})

test('a security that does not exist, a page that does not exist', async ({ page, demo }) => {
  await page.goto(`${demo.url}/look/NOSUCH`)
  await expect(page.getByText(/NOSUCH/).first()).toBeVisible()
  await expect(page.getByText(/not listed|no bars/i).first()).toBeVisible()
  expect((await page.goto(`${demo.url}/nowhere`))!.status()).toBe(404)
})
