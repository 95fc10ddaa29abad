import { cases } from '@/tests/cases'
import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals'
import fc from 'fast-check'
import { appendFile, readFile, rm, stat, truncate, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { crc32 } from 'node:zlib'
import { tempDir } from '@/tests/broker'
import { Journal } from './journal'
import { recordOf } from './records'

type Entry = { n: number }

/** All entries that are on the disk. */
async function reread(journal: Journal<Entry>): Promise<Entry[]> {
  const entries: Entry[] = []
  await journal.reread({ take: (entry) => entries.push(entry) })
  return entries
}

let dir: Awaited<ReturnType<typeof tempDir>>
let path: string
beforeEach(async () => {
  dir = await tempDir()
  path = join(dir.path, 'deep', 'journal.log')
})
const opened: Journal<Entry>[] = []
const openJournal = async (salvage = false) => {
  const made = await Journal.open<Entry>(path, salvage)
  opened.push(made.journal)
  return made
}
afterEach(async () => {
  await Promise.all(opened.splice(0).map((journal) => journal.close().catch(() => undefined)))
  await dir.remove()
})

/** A journal of some records, closed. */
async function written(count: number): Promise<Buffer> {
  const { journal } = await openJournal()
  await journal.append(Array.from({ length: count }, (_, n) => ({ n })))
  await journal.close()
  return readFile(path)
}

it('checksums are those that others make', () => {
  // CRC-32 of "123456789". Source: the check value of CRC-32/ISO-HDLC in the catalogue of parametrised CRC algorithms.
  expect(crc32('123456789')).toBe(0xcbf43926)
  expect(recordOf({ n: 1 }).toString()).toMatch(/^00000007 [0-9a-f]{8} [0-9a-f]{8} {"n":1}\n$/)
})

it('gives back what was appended, in order, also when many append at once', async () => {
  const { journal } = await openJournal()
  await Promise.all(Array.from({ length: 50 }, (_, n) => journal.append([{ n }, { n: n + 100 }])))
  await journal.close()
  const { entries, said } = await openJournal()
  expect(entries.map((e) => e.n)).toEqual(Array.from({ length: 50 }, (_, n) => [n, n + 100]).flat())
  expect(said).toEqual([])
})

it('reads more than one piece of the file at a time holds', async () => {
  const { journal } = await openJournal()
  const long = 'x'.repeat(700_000)
  await (journal as unknown as Journal<unknown>).append([{ long }, { long }, { n: 1 }])
  await journal.close()
  expect((await openJournal()).entries).toEqual([{ long }, { long }, { n: 1 }])
})

it('can be read by its owner only', async () => {
  await written(1)
  expect((await stat(path)).mode & 0o777).toBe(0o600)
  expect((await stat(join(dir.path, 'deep'))).mode & 0o777).toBe(0o700)
})

it('cut off anywhere, it comes back with the records before the cut, and says so', async () => {
  const whole = await written(4)
  const ends = [0]
  for (let n = 0; n < 4; n++) ends.push(ends[n] + recordOf({ n }).length)
  for (let cut = 0; cut <= whole.length; cut++) {
    await writeFile(path, whole.subarray(0, cut))
    const { journal, entries, said } = await openJournal()
    const left = ends.findLastIndex((end) => end <= cut)
    expect(entries).toEqual(Array.from({ length: left }, (_, n) => ({ n })))
    expect(said).toHaveLength(ends.includes(cut) ? 0 : 1)
    expect(journal.length).toBe(ends[left])
    await journal.append([{ n: 9 }])
    expect((await reread(journal)).at(-1)).toEqual({ n: 9 })
    await journal.close()
  }
})

it('a bit that was flipped, wherever it lies, stops the start and names the record', async () => {
  const whole = await written(6)
  const starts = Array.from({ length: 6 }, (_, n) => n * recordOf({ n: 0 }).length)
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 0, max: whole.length - 1 }),
      fc.integer({ min: 0, max: 7 }),
      async (at, bit) => {
        const flipped = Buffer.from(whole)
        flipped[at] ^= 1 << bit
        await writeFile(path, flipped)
        const record = starts.findLastIndex((start) => start <= at) + 1
        await expect(Journal.open(path)).rejects.toThrow(`Record ${record} of the journal`)
      },
    ),
    { numRuns: cases(60) },
  )
})

it('salvage keeps what lies before the damage, and a copy of all of it beside', async () => {
  const whole = await written(5)
  const damaged = Buffer.from(whole)
  damaged[2 * recordOf({ n: 0 }).length + 30] ^= 1
  await writeFile(path, damaged)
  const { journal, entries, said } = await openJournal(true)
  expect(entries).toEqual([{ n: 0 }, { n: 1 }])
  const aside = /lies in (\S+)\.$/.exec(said[0])![1]
  expect(await readFile(aside)).toEqual(damaged)
  await journal.append([{ n: 7 }])
  await journal.close()
  expect((await openJournal()).entries).toEqual([{ n: 0 }, { n: 1 }, { n: 7 }])
})

it('a full disk refuses the whole batch and leaves no half of it behind', async () => {
  const { journal } = await openJournal()
  await journal.append([{ n: 1 }])
  const before = await readFile(path)
  const file = (journal as unknown as { file: { datasync(): Promise<void> } }).file
  jest.spyOn(file, 'datasync').mockRejectedValueOnce(new Error('ENOSPC: no space left on device'))
  await expect(journal.append([{ n: 2 }])).rejects.toThrow('cannot be written: ENOSPC')
  expect(await readFile(path)).toEqual(before)
  await journal.append([{ n: 3 }])
  expect(await reread(journal)).toEqual([{ n: 1 }, { n: 3 }])
})

describe('what follows the last record', () => {
  it('is damage where it is no beginning of one', async () => {
    await written(1)
    await appendFile(path, 'something that somebody wrote in here')
    await expect(Journal.open(path)).rejects.toThrow('Record 2 of the journal')
  })

  it('is cut off where a power cut left nothing but NULs, of a record begun or none', async () => {
    await fc.assert(
      fc.asyncProperty(fc.nat(80), fc.integer({ min: 1, max: 100_000 }), async (lost, nuls) => {
        await rm(path, { force: true })
        const whole = await written(3)
        await truncate(path, whole.length - lost)
        await truncate(path, whole.length - lost + nuls)
        const { journal, entries, said } = await Journal.open<{ n: number }>(path)
        const left = entries.length
        // Records of 35 bytes: one that lost a byte was never acknowledged.
        expect(left).toBe(3 - Math.ceil(lost / 35))
        expect(said[0]).toContain('cut off in mid-write')
        await journal.append([{ n: 9 }])
        await journal.close()
        const again = await Journal.open<{ n: number }>(path)
        expect(again.entries.map(({ n }) => n)).toEqual([...Array(left).keys(), 9])
        await again.journal.close()
      }),
      { numRuns: cases(13) },
    )
  })
})
