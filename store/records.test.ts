import '@/tests/indexedDb'
import { beforeEach, describe, expect, it } from '@jest/globals'
import Dexie from 'dexie'
import { forgetFrame, keepChunk, keptFrames } from './barStore'
import { db } from './db'
import { Ballot, type LookLayout, SavedScan, Schedule, Universe } from './shapes'
import { exportWorkspace, importWorkspace } from './workspace'

beforeEach(() => Promise.all(db.tables.map((table) => table.clear())))

const layout: LookLayout = {
  symbol: 'TARN',
  drawings: [{ id: 'a', kind: 'level', name: 'shelf', price: 12.5 }],
  panels: [{ id: 'price', measures: ['vwap'] }],
  frames: ['1 day'],
  changedAt: 5,
}
const scan: SavedScan = {
  id: 's-1',
  name: 'Morning',
  version: 1,
  rule: 'gap up',
  measures: ['gap'],
  universe: {
    is: 'joined',
    how: 'without',
    parts: [
      { is: 'index', index: 'Skerry Ten' },
      { is: 'list', listId: 'l-1' },
    ],
  },
  frame: '5 min so far',
  savedAt: 1,
  tags: ['morning'],
  schedule: { is: 'after open', minutes: 25 },
  order: { by: 'measure gap', down: true },
}

describe('what the trader makes', () => {
  it('leaves in the workspace, all of it, and comes back the same', async () => {
    await db.scans.put(scan)
    await db.lists.put({ id: 'l-1', name: 'Mine', symbols: ['TARN', 'BECK'], changedAt: 2 })
    await db.layouts.put(layout)
    await db.ballots.put({
      id: 'usual',
      name: 'mine',
      voters: [{ name: 'one', for: 'gap up', against: 'gap down' }],
    })
    await db.ownReports.put({ symbol: 'TARN', reports: [{ known: 1, eps: 1.2, confirmed: true }] })
    await keepChunk({
      id: '1 day #0',
      frame: '1 day',
      symbols: ['TARN'],
      ends: [1],
      buffer: new ArrayBuffer(8),
      keptAt: 1,
    })
    const text = await exportWorkspace()
    const before = await Promise.all(
      [db.scans, db.lists, db.layouts, db.ballots, db.ownReports].map((t) => t.toArray()),
    )
    await Promise.all(db.tables.map((table) => table.clear()))
    await importWorkspace(text)
    expect(
      await Promise.all([db.scans, db.lists, db.layouts, db.ballots, db.ownReports].map((t) => t.toArray())),
    ).toEqual(before)
    // Bars of the market are fetched anew where they are needed: they do not travel.
    expect(await db.barChunks.count()).toBe(0)
  })

  it('voices that an older build kept as buy and sell are for and against', async () => {
    const old = { id: 'usual', name: 'mine', voters: [{ name: 'one', buy: 'gap up', sell: 'gap down' }] }
    const renamed = { name: 'one', for: 'gap up', against: 'gap down' }
    expect(Ballot.parse(old).voters).toEqual([renamed])
    await db.delete()
    const before = new Dexie('fleet-heron')
    before.version(2).stores({ ballots: 'id, name' })
    await before.table('ballots').put(old)
    before.close()
    await db.open()
    expect((await db.ballots.get('usual'))?.voters).toEqual([renamed])
  })

  it('a file from before lists and layouts were there is taken up', async () => {
    await db.scans.put(scan)
    const file = JSON.parse(await exportWorkspace()) as Record<string, unknown>
    for (const name of ['lists', 'layouts', 'ballots', 'ownReports']) delete file[name]
    await Promise.all(db.tables.map((table) => table.clear()))
    await importWorkspace(JSON.stringify(file))
    expect(await db.scans.count()).toBe(1)
  })

  it('a workspace with one bad drawing is refused whole, the place named', async () => {
    await db.layouts.put(layout)
    const file = JSON.parse(await exportWorkspace()) as { layouts: { drawings: object[] }[] }
    file.layouts[0].drawings.push({ id: 'x', kind: 'level', name: 'no price' })
    await expect(importWorkspace(JSON.stringify(file))).rejects.toMatchObject({
      problem: { code: 'not_workspace', place: expect.stringMatching(/^layouts.0.drawings.1/) as unknown },
    })
  })
})

describe('shapes', () => {
  it.each([
    ['a frame of half a day', { ...scan, frame: '0.5 day' }],
    ['a schedule of every 0 minutes', { ...scan, schedule: { is: 'every', minutes: 0 } }],
    ['a schedule of every 500 minutes', { ...scan, schedule: { is: 'every', minutes: 500 } }],
    ['a universe of no kind', { ...scan, universe: { is: 'moon' } }],
    [
      'a set joined with nothing',
      { ...scan, universe: { is: 'joined', how: 'or', parts: [{ is: 'everything' }] } },
    ],
    ['an order by nothing', { ...scan, order: { down: true } }],
  ])('%s is refused', (_, wrong) => expect(SavedScan.safeParse(wrong).success).toBe(false))

  it('sets joined a hundred deep are read', () => {
    let universe: Universe = { is: 'everything' }
    for (let k = 0; k < 100; k++)
      universe = { is: 'joined', how: 'or', parts: [universe, { is: 'kind', kind: 'Fund' }] }
    expect(Universe.safeParse(universe).success).toBe(true)
  })

  it('a ballot has at most fifty voices, each with a name', () => {
    const voter = { name: 'one', buy: 'gap up', sell: 'gap down' }
    expect(Ballot.safeParse({ id: 'x', name: 'y', voters: Array(51).fill(voter) }).success).toBe(false)
    expect(Ballot.safeParse({ id: 'x', name: 'y', voters: [{ ...voter, name: '' }] }).success).toBe(false)
    expect(Schedule.safeParse({ is: 'after close' }).success).toBe(true)
  })
})

describe('bars that are kept', () => {
  const chunk = (k: number, frame: string, symbols: string[]) => ({
    ...{ id: `${frame} #${k}`, frame, symbols, keptAt: k },
    ends: symbols.map((_, i) => 100 * k + i),
    buffer: new ArrayBuffer(40),
  })

  it('are told by frame, with the last bar of each security', async () => {
    await keepChunk(chunk(0, '1 day', ['A', 'B']))
    await keepChunk(chunk(1, '1 day', ['C']))
    await keepChunk(chunk(0, '5 min', ['A']))
    const frames = await keptFrames()
    expect(frames.find((f) => f.frame === '1 day')).toEqual({
      frame: '1 day',
      bytes: 80,
      keptAt: 1,
      last: [
        { symbol: 'A', end: 0 },
        { symbol: 'B', end: 1 },
        { symbol: 'C', end: 100 },
      ],
    })
    await forgetFrame('1 day')
    expect((await keptFrames()).map((f) => f.frame)).toEqual(['5 min'])
  })
})

describe('a browser that kept the first version', () => {
  it('opens the next one with everything that was there', async () => {
    db.close()
    await Dexie.delete('fleet-heron')
    const old = new Dexie('fleet-heron')
    old.version(1).stores({
      scans: 'id, name, savedAt',
      runs: 'id, scanId, ranAt',
      ownData: 'id, name',
      ownBars: '[dataId+symbol], dataId',
      keys: 'keyId',
      settings: 'name',
    })
    await old.table('scans').put({ ...scan, schedule: undefined })
    old.close()
    await db.open()
    expect((await db.scans.toArray()).map((s) => s.name)).toEqual(['Morning'])
    await db.lists.put({ id: 'l', name: 'x', symbols: [], changedAt: 0 })
    expect(await db.lists.count()).toBe(1)
  })
})
