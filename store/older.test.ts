import '@/tests/indexedDb'
import { beforeEach, describe, expect, it } from '@jest/globals'
import Dexie from 'dexie'
import { readFileSync } from 'node:fs'
import { db, HeronDb } from './db'
import { saveScan, scanAt, versionsOf } from './scans'
import { importWorkspace } from './workspace'

/** What the build before versions of scans left: tests/fixtures were made with it. */
const fixture = (name: string): string => readFileSync(`tests/fixtures/${name}`, 'utf8')

interface Dump {
  version: number
  schema: Record<string, string>
  rows: Record<string, Record<string, unknown>[]>
}

/** Columns of numbers, which JSON cannot hold. */
const revived = (text: string): Dump =>
  JSON.parse(text, (_, value: unknown) =>
    value !== null && typeof value === 'object' && 'numbers' in value
      ? Float64Array.from(value.numbers as (number | null)[], (x) => x ?? NaN)
      : value,
  ) as Dump

beforeEach(async () => {
  await db.delete()
  await db.open()
})

const asSaved = async () => {
  expect(await db.scans.orderBy('name').toArray()).toMatchObject([
    {
      id: 's-1',
      name: 'Morning',
      version: 1,
      tags: ['morning'],
      schedule: { is: 'after open', minutes: 25 },
    },
    { id: 's-2', name: 'Odd', version: 1, rule: 'close > rsi(14)' },
  ])
  expect(await scanAt('s-1', 1)).toMatchObject({ rule: 'gap up and volume > 1.5 * sma(volume, 20)' })
  expect(await db.runs.toArray()).toMatchObject([
    { scanId: 's-1', scanVersion: 1, symbols: ['OSPRY', 'GANET'] },
  ])
  expect((await db.ownBars.toArray())[0].bars.close).toEqual(Float64Array.of(1, 2, NaN, 4))
  expect(await db.layouts.get('OSPRY')).toMatchObject({ drawings: [{ name: 'shelf' }] })
  expect([await db.lists.count(), await db.ballots.count(), await db.ownReports.count()]).toEqual([1, 1, 1])
}

describe('what an older build left opens right', () => {
  it('its database', async () => {
    const { version, schema, rows } = revived(fixture('database-3.json'))
    await db.delete()
    const older = new Dexie('fleet-heron')
    older.version(version).stores(schema)
    await older.open()
    for (const [table, all] of Object.entries(rows)) await older.table(table).bulkPut(all)
    older.close()
    const now = new HeronDb()
    await now.open()
    now.close()
    await db.open()
    await asSaved()
  })

  it('its workspace file', async () => {
    const told = await importWorkspace(fixture('workspace-1.json'))
    expect(told).toEqual({ scans: 2, runs: 1, sets: 1, securities: 1 })
    await asSaved()
  })
})

describe('versions of a scan', () => {
  const asked = {
    rule: 'close > 1',
    measures: [],
    universe: { is: 'everything' } as const,
    frame: '1 day',
  }

  it('saving another rule makes the next; the old one stays readable', async () => {
    const first = await saveScan('Above', asked)
    const second = await saveScan('Above', { ...asked, rule: 'close > 2' })
    expect([first.version, second.version, second.id]).toEqual([1, 2, first.id])
    expect((await versionsOf(first.id)).map((one) => [one.version, one.rule])).toEqual([
      [2, 'close > 2'],
      [1, 'close > 1'],
    ])
  })

  it('saving the same again makes none, and what belongs to the scan stays with it', async () => {
    const first = await saveScan('Above', asked)
    await db.scans.update(first.id, { tags: ['mine'] })
    const again = await saveScan('Above', { ...asked })
    expect([again.version, again.tags, again.savedAt]).toEqual([1, ['mine'], first.savedAt])
    expect(await versionsOf(first.id)).toHaveLength(1)
  })
})
