import AxeBuilder from '@axe-core/playwright'
import { type Page } from '@playwright/test'
import { expect, find, oneWindow, section, summary, test, toData } from './app'

/** Pages, and how one comes to them from another. */
const PAGES: [path: string, go: (page: Page) => Promise<void>][] = [
  ['/find', () => Promise.resolve()],
  ['/look/OSPRY', (page) => find(page, 'OSPRY')],
  ['/desk', (page) => section(page, 'Desk')],
  ['/plan', (page) => section(page, 'Plan')],
  ['/sheet', (page) => section(page, 'Sheet')],
  ['/data', toData],
]

/** What axe finds, once nothing fades in any more: what still does has not the contrast that it will have. */
async function violations(page: Page, rules?: string[]): Promise<string[]> {
  await page.waitForFunction(() => document.getAnimations().every((a) => a.playState !== 'running'))
  const axe = new AxeBuilder({ page })
  const found = await (
    rules ? axe.withRules(rules) : axe.withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
  ).analyze()
  return found.violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(' | ')}`)
}

/** A plan that is begun: the list of plans, its sentence and the evidence stand beside one another. */
async function expectColumns(page: Page): Promise<void> {
  await page.getByRole('button', { name: '+ Fast over slow', exact: true }).click()
  const columns = [
    page.getByRole('navigation', { name: 'Plans' }),
    page.getByRole('region', { name: 'Plan', exact: true }),
    page.getByRole('region', { name: 'Evidence' }),
  ]
  await expect(columns[2]!.getByRole('list', { name: 'Clauses' })).toBeVisible()
  const boxes = await Promise.all(columns.map((column) => column.boundingBox()))
  const edges = boxes.flatMap((box) => [box!.x, box!.x + box!.width])
  expect(edges).toEqual(edges.toSorted((a, b) => a - b))
}

test.describe('every page', () => {
  const shares = oneWindow('/find')

  for (const [path, go] of PAGES)
    test(`${path} passes axe (WCAG 2.2 AA) by day and by night, and nothing is cut at any width`, async () => {
      const { page } = shares
      await page.emulateMedia({ colorScheme: 'light' })
      await go(page)
      await expect(page.getByRole('banner')).toContainText('is open')
      if (path === '/find') await expect(summary(page)).toBeVisible()
      for (const width of [1024, 1920, 1280]) {
        await page.setViewportSize({ width, height: 800 })
        await expect(page.getByRole('button', { name: 'Stand down' })).toBeInViewport({ ratio: 1 })
        const over = () =>
          page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth)
        await expect.poll(over, { message: `beyond the edge at ${width}` }).toBe(0)
      }
      if (path.startsWith('/look')) {
        await expect(page.getByRole('img', { name: /Chart of/ })).toBeVisible()
        await page.keyboard.press('o')
        await expect(page.getByRole('region', { name: 'Order ticket' })).toContainText('Costs')
      }
      if (path === '/plan') await expectColumns(page)
      expect(await violations(page)).toEqual([])
      // By night only the colours are others.
      await page.emulateMedia({ colorScheme: 'dark' })
      await expect(page.locator('html')).toHaveAttribute('data-mantine-color-scheme', 'dark')
      expect(await violations(page, ['color-contrast'])).toEqual([])
    })
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
