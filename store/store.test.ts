import '@/tests/indexedDb'
import { beforeAll, beforeEach, describe, expect, it } from '@jest/globals'
import { barsOf } from '@/tests/bars'
import { db, sayStorageError } from './db'
import { keepOwnData, ownBars, removeOwnData } from './own'
import { lockSecret, unlockSecret } from './secrets'
import { type FileFailure } from '@/core/formats/problems'
import { sayFile } from '@/core/formats/say'
import { exportWorkspace, importWorkspace } from './workspace'

beforeEach(() => Promise.all(db.tables.map((table) => table.clear())))

const valley = [
  { symbol: 'TARN', bars: barsOf([1, 2, NaN, 4]) },
  { symbol: 'BECK', bars: barsOf([5, 6]) },
]
const scan = {
  id: 's-1',
  name: 'Above',
  version: 1,
  rule: 'close > sma(close, 5)',
  measures: ['rsi(14)'],
  universe: { is: 'everything' } as const,
  frame: '1 day' as const,
  savedAt: 1,
}
const run = {
  id: 'r-1',
  scanId: 's-1',
  scanVersion: 1,
  name: 'Above',
  ranAt: 2,
  dataAsOf: 3,
  symbols: ['TARN'],
}

describe('secrets', () => {
  it('come back with their passphrase only, and look different each time they are locked', async () => {
    const [one, two] = [await lockSecret('s3cret', 'low tide'), await lockSecret('s3cret', 'low tide')]
    expect(await unlockSecret(one, 'low tide')).toBe('s3cret')
    expect(await unlockSecret(one, 'high tide')).toBeUndefined()
    expect([...one.cipher]).not.toEqual([...two.cipher])
    expect(Buffer.from(one.cipher).toString('latin1')).not.toContain('s3cret')
  })

  it('a changed byte is found out', async () => {
    const locked = await lockSecret('s3cret', 'low tide')
    locked.cipher[0] ^= 1
    expect(await unlockSecret(locked, 'low tide')).toBeUndefined()
  })
})

describe('own data', () => {
  it('a set of the same name replaces the one before, whole', async () => {
    await keepOwnData('valley', '1 day', valley)
    const second = await keepOwnData('valley', '1 day', valley.slice(1))
    expect(await db.ownData.count()).toBe(1)
    expect((await ownBars(second.id)).symbols).toEqual(['BECK'])
    await removeOwnData(second.id)
    expect([await db.ownData.count(), await db.ownBars.count()]).toEqual([0, 0])
  })

  it('where keeping fails, what was there stays', async () => {
    const { id } = await keepOwnData('valley', '1 day', valley)
    const twice = [valley[0], valley[0]]
    await expect(keepOwnData('valley', '1 day', twice)).rejects.toThrow()
    expect((await ownBars(id)).symbols.sort()).toEqual(['BECK', 'TARN'])
  })
})

describe('the workspace', () => {
  let locked: Awaited<ReturnType<typeof lockSecret>>
  beforeAll(async () => {
    locked = await lockSecret('s3cret', 'low tide')
  })
  const fill = async () => {
    await db.scans.put(scan)
    await db.runs.put(run)
    await db.settings.put({ name: 'find draft', value: { rule: scan.rule } })
    await db.keys.put({ keyId: 'paper-1', name: 'my key', locked })
    return keepOwnData('valley', '1 day', valley)
  }

  it('leaves as one file without secrets and comes back the same', async () => {
    const { id } = await fill()
    const text = await exportWorkspace()
    expect(text).not.toMatch(/cipher|salt|s3cret/)
    await Promise.all(db.tables.map((table) => table.clear()))
    expect(await importWorkspace(text)).toEqual({ scans: 1, runs: 1, sets: 1, securities: 2 })
    expect(await db.scans.toArray()).toEqual([scan])
    expect(await db.runs.toArray()).toEqual([run])
    const { symbols, bars } = await ownBars(id)
    expect([...bars[symbols.indexOf('TARN')].close]).toEqual([1, 2, NaN, 4])
    expect(await db.keys.toArray()).toEqual([{ keyId: 'paper-1', name: 'my key' }])
  })

  it('coming back beside what is there, it takes nothing away; a kept secret stays locked', async () => {
    await fill()
    const text = await exportWorkspace()
    await db.scans.put({ ...scan, id: 's-2', name: 'Newer' })
    await importWorkspace(text)
    expect(await db.scans.count()).toBe(2)
    expect((await db.keys.get('paper-1'))!.locked).toBeDefined()
  })

  it.each([
    ['nonsense', 'not JSON'],
    ['{}', 'not a workspace file'],
    ['{"form":"fleet-heron-workspace","version":2}', 'version'],
    ['[1,2]', 'not a workspace file'],
  ])('%s is refused, and nothing changes', async (text, message) => {
    await fill()
    const wrong: unknown = await importWorkspace(text).catch((error: unknown) => error)
    expect(sayFile((wrong as FileFailure).problem)).toContain(message)
    expect(await db.scans.count()).toBe(1)
  })

  it('a file with damaged bars is refused whole', async () => {
    await fill()
    const file = JSON.parse(await exportWorkspace()) as {
      ownBars: { columns: Record<string, string> }[]
      scans: object[]
    }
    file.scans.push({ ...scan, id: 's-9' })
    file.ownBars[0].columns.close = file.ownBars[1].columns.close
    await expect(importWorkspace(JSON.stringify(file))).rejects.toMatchObject({
      problem: { code: 'not_workspace', reason: 'its columns differ in length' },
    })
    file.ownBars[0].columns.close = 'no base64!'
    await expect(importWorkspace(JSON.stringify(file))).rejects.toMatchObject({
      problem: { reason: 'the column close is damaged' },
    })
    expect(await db.scans.count()).toBe(1)
  })
})

describe('what storage says when it fails', () => {
  it.each([
    ['QuotaExceededError', 'no room left'],
    ['VersionError', 'Another tab runs a newer version'],
    ['AbortError', 'could not keep this'],
  ])('%s', (name, words) => {
    const error = Object.assign(new Error('x'), { name })
    expect(sayStorageError(error)).toContain(words)
    expect(sayStorageError({ inner: error })).toContain(words)
  })
})
