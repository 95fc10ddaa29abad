/** @jest-environment ./tests/screenEnvironment.mjs */
import '@/tests/indexedDb'
import { afterEach, beforeEach, describe, expect, it } from '@jest/globals'
import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { cleanup, draw } from '@/tests/screen'
import { db } from '@/store/db'
import { removeScan, saveScan } from '@/store/scans'
import { useFind } from './findStore'
import { SavedScans } from './SavedScans'

const written = (rule: string) => ({
  ...{ rule, measures: [], universe: { is: 'everything' as const }, frame: '1 day' },
  order: undefined,
})
const venue = (mic: string) => ({ mic })
const services = { broker: { venues: () => Promise.resolve([venue('XBRK'), venue('XSKR')]) } as never }

beforeEach(async () => {
  await Promise.all(db.tables.map((table) => table.clear()))
})
afterEach(cleanup)

async function opened(): Promise<ReturnType<typeof userEvent.setup>> {
  const user = userEvent.setup()
  draw(<SavedScans />, services)
  await user.click(await screen.findByRole('button', { name: 'Saved scans (1)' }))
  return user
}

describe('saved scans', () => {
  it('an earlier version stays to be read, and is taken up as it was', async () => {
    await saveScan('Above', written('close > 10'))
    await saveScan('Above', written('close > 20'))
    const user = await opened()
    expect(screen.getByText(/version 2/)).toBeTruthy()
    await user.click(screen.getByRole('button', { name: 'runs' }))
    const earlier = await screen.findByRole('region', { name: 'Earlier versions of Above' })
    expect(earlier.textContent).toMatch(/version 1, saved .*close > 10/)
    await user.click(screen.getByRole('button', { name: 'open' }))
    expect(useFind.getState()).toMatchObject({ rule: 'close > 10', name: 'Above' })
  })

  it('one whose rule is not sound any more is kept and marked', async () => {
    await saveScan('Broken', written('close > smaa(close, 3)'))
    await opened()
    expect(screen.getByText(/not sound any more/)).toBeTruthy()
  })

  it('one that is thrown away comes back with its versions and runs', async () => {
    const { id } = await saveScan('Slip', written('close > 10'))
    await saveScan('Slip', written('close > 20'))
    const bringBack = await removeScan(id)
    expect([await db.scans.count(), await db.scanVersions.count()]).toEqual([0, 0])
    await bringBack()
    await opened()
    expect(screen.getByText(/version 2/)).toBeTruthy()
    expect(await db.scanVersions.count()).toBe(2)
  })

  it('runs by the session of a venue, so many minutes before its open', async () => {
    await saveScan('Early', written('close > 10'))
    const user = await opened()
    await user.click(screen.getByRole('button', { name: 'runs' }))
    await user.click(screen.getByRole('combobox', { name: 'Runs' }))
    await user.click(await screen.findByRole('option', { name: /before the open/ }))
    await user.click(await screen.findByRole('combobox', { name: 'Session of' }))
    await user.click(await screen.findByRole('option', { name: /Skerry/ }))
    await waitFor(async () =>
      expect((await db.scans.toArray())[0].schedule).toEqual({
        ...{ is: 'before open', minutes: 40, venue: 'XSKR' },
      }),
    )
  })
})
