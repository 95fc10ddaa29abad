import { afterEach, beforeEach, expect, it } from '@jest/globals'
import { copyFile, readFile, rm, truncate, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { positions, realizedOn } from '@/core/book/positions'
import { fromE4 } from '@/core/market/money'
import { openWorld, tempDir, Wall } from '@/tests/broker'
import { ROOT } from '@/tests/process'
import { type World } from '../world'
import { WorldJournal } from './worldJournal'

let dir: Awaited<ReturnType<typeof tempDir>>
let wall: Wall
let world: World | undefined
beforeEach(async () => {
  dir = await tempDir()
  wall = new Wall()
})
afterEach(async () => {
  await world?.close()
  world = undefined
  await dir.remove()
})
const open = async (options = {}) => (world = await openWorld(dir.path, wall, options))
const file = (name: string) => join(dir.path, name)

/** A world with an order in it, closed. */
async function lived(): Promise<void> {
  await open()
  await world!.submit({
    ...{ clOrdId: 'a', symbol: 'OSPRY', side: 'Buy', orderQty: 5 },
    ...{ ordType: 'Market', timeInForce: 'Day' },
  })
  await world!.close()
  world = undefined
}

it('keeps the name of the world', async () => {
  await open()
  const { id } = world!
  await world!.close()
  await open()
  expect(world!.id).toBe(id)
})

it('a journal that was emptied, lost or cut back whole records does not begin a new world', async () => {
  await lived()
  const whole = await readFile(file('journal.log'))
  await truncate(file('journal.log'), 0)
  await expect(open()).rejects.toThrow('is missing or empty; it had')
  await rm(file('journal.log'))
  await expect(open()).rejects.toThrow('is missing or empty; it had')
  const last = whole.lastIndexOf(10, whole.length - 2) + 1
  await writeFile(file('journal.log'), whole.subarray(0, last))
  await expect(open()).rejects.toThrow('What was acknowledged is missing')
  await writeFile(file('journal.log'), whole)
  await open()
  expect(world!.main.book.orders.O1.clOrdId).toBe('a')
})

it('another seed does not start in it, and the mend says which does', async () => {
  await lived()
  await expect(open({ seed: 'other' })).rejects.toThrow('was begun with the seed "test"')
  await expect(open({ seed: 'other', salvage: true })).rejects.toThrow('was begun with the seed "test"')
})

it('a note that is missing is written anew, and that is told', async () => {
  await lived()
  await rm(file('world.json'))
  const said: string[] = []
  await open({ say: (what: string) => said.push(what) })
  expect(said).toEqual([expect.stringContaining('world.json was missing')])
})

it('a note that cannot be read stops the start', async () => {
  await lived()
  await writeFile(file('world.json'), '{"world": 1}')
  await expect(open()).rejects.toThrow('cannot be read')
})

it('what a build before checksums wrote is brought over once, and its file stays', async () => {
  // Written by that build, with what its API said of it.
  const told = JSON.parse(await readFile(join(ROOT, 'tests/fixtures/journal-1.told.json'), 'utf8')) as {
    account: { cash: number; realizedToday: number; commissionToday: number }
    orders: { clOrdId: string }[]
    positions: { symbol: string }[]
  }
  await copyFile(join(ROOT, 'tests/fixtures/journal-1.ndjson'), file('journal.ndjson'))
  const said: string[] = []
  await open({ say: (what: string) => said.push(what) })
  expect(said).toEqual([expect.stringContaining('26 records of an earlier build were brought over')])
  const { book } = world!.main
  const today = world!.main.today(world!.clock.now())
  expect({
    cash: fromE4(book.cashE4),
    realizedToday: fromE4(realizedOn(book, today)),
    commissionToday: fromE4(book.commissionE4[today]),
  }).toEqual(told.account)
  expect(Object.values(book.orders).reverse()).toMatchObject(told.orders)
  const held = positions(book, world!.main.exchange.pricesAt(world!.clock.now()), today)
  expect(held).toMatchObject(told.positions)
  await world!.close()
  expect(await readFile(file('journal.ndjson.before'), 'utf8')).toBe(
    await readFile(join(ROOT, 'tests/fixtures/journal-1.ndjson'), 'utf8'),
  )
  said.length = 0
  await open({ say: (what: string) => said.push(what) })
  expect(said).toEqual([])
  expect(Object.keys(world!.main.book.orders)).toHaveLength(told.orders.length)
})

it('an earlier build’s journal that is damaged is left as it is, and says where', async () => {
  const whole = await readFile(join(ROOT, 'tests/fixtures/journal-1.ndjson'))
  await writeFile(
    file('journal.ndjson'),
    Buffer.concat([whole.subarray(0, 400), Buffer.from([0xff, 0xfe, 10])]),
  )
  await expect(open()).rejects.toThrow('bytes that are no text')
  await writeFile(file('journal.ndjson'), whole.toString().replace('"is":"clock"', '"is""clock"'))
  await expect(open()).rejects.toThrow('Line 2 of the journal')
  // Its last line was cut off: it was never acknowledged.
  await writeFile(file('journal.ndjson'), whole.subarray(0, -20))
  await open()
  expect(world!.main.book.seq).toBeGreaterThan(0)
})

it('eight writers are told in the order in which they wrote, also while the length of the journal is noted', async () => {
  const restore = { begin: () => undefined, take: () => undefined }
  const { journal } = await WorldJournal.open<{ n: number; text: string }, unknown>(
    dir.path,
    { seed: 'test', salvage: false },
    restore,
  )
  const told: number[] = []
  const text = 'x'.repeat(50_000)
  let next = 0
  // 12 MiB in all: the length is noted after each of them.
  const writer = async () => {
    for (let i = 0; i < 30; i++) {
      const n = next++
      await journal.append([{ n, text }])
      told.push(n)
    }
  }
  await Promise.all(Array.from({ length: 8 }, writer))
  await journal.close()
  expect(told).toEqual(Array.from({ length: 240 }, (_, n) => n))
})
