import AxeBuilder from '@axe-core/playwright'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, test } from './app'

test('a rehearsal that cannot be opened is pointed out with the mend, and deleted', async ({
  page,
  own: demo,
}) => {
  for (const id of ['sound', 'broken']) await demo.request('POST', '/rehearsals', { id, start: '2026-03-02' })
  await demo.stop()
  const journal = join(demo.dataDir, 'broker', 'rehearsals', 'broken', 'journal.log')
  const bytes = readFileSync(journal)
  bytes[40] ^= 1
  writeFileSync(journal, bytes)
  await demo.start()
  await page.goto(`${demo.url}/desk`)
  await page.getByRole('button', { name: /broken.* is set aside/ }).click()
  const dialog = page.getByRole('dialog')
  await expect(dialog.getByRole('region', { name: 'Set aside: broken' })).toContainText('is damaged')
  await expect(dialog.getByRole('table', { name: 'Rehearsals' })).toContainText('sound')
  const { violations } = await new AxeBuilder({ page })
    .include('[role=dialog]')
    .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
    .analyze()
  expect(violations).toEqual([])
  await dialog.getByRole('button', { name: 'Delete the rehearsal broken' }).click()
  await dialog.getByRole('button', { name: 'Delete it' }).click()
  await expect(dialog.getByRole('region', { name: 'Set aside: broken' })).toBeHidden()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('button', { name: /broken.* is set aside/ })).toBeHidden()
})

test('on their last day contracts say what will happen, and are not exercised where that is asked', async ({
  page,
  own: demo,
}) => {
  type Listed = { symbol: string; option: { strikePrice: number } }
  const calls = await demo.request<Listed[]>(
    'GET',
    '/paper/options?underlyingSymbol=OSPRY&putOrCall=Call&maturityFrom=2026-03-20&maturityTo=2026-03-20',
  )
  const [{ last }] = await demo.request<{ last: number }[]>('GET', '/paper/quotes?symbols=OSPRY')
  const deep = calls.find(({ option }) => option.strikePrice < last - 2)!
  await demo.request('POST', '/paper/orders', {
    ...{ clOrdId: 'c', symbol: deep.symbol, side: 'Buy', orderQty: 2, ordType: 'Market' },
  })
  for (let day = 0; day < 4; day++) await demo.request('POST', '/paper/market-time', { jumpTo: 'open' })
  await page.goto(`${demo.url}/desk`)
  const ending = page.getByRole('region', { name: 'Contracts that expire today' })
  await expect(ending).toContainText('in the money, so it is exercised at the close.')
  await ending.getByRole('button', { name: 'Do not exercise' }).click()
  await expect(ending).toContainText('It expires today and is not exercised, as you asked.')
  await ending.getByRole('button', { name: 'Exercise it after all' }).click()
  await expect(ending).toContainText('so it is exercised at the close.')
  await demo.request('POST', '/paper/market-time', { jumpTo: 'close' })
  await expect(ending).toBeHidden()
  await expect(page.getByRole('grid', { name: 'Positions' })).toContainText('200')
})
