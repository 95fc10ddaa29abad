import { afterAll, beforeAll, describe, expect, it } from '@jest/globals'
import { makeTable, ownMemory } from '@/core/market/barTable'
import { dateIn } from '@/core/market/moments'
import { finishScan, addPart, type ScanPart } from '@/core/scan/scan'
import { barsOf } from '@/tests/bars'
import { answered, inThisThread, SameThread } from '@/tests/sameThread'
import { type Job } from './scan.protocol'
import { ScanPool } from './scanPool'

const many = (n: number) => ({
  symbols: ['INDEX', 'RISES', ...Array.from({ length: n }, (_, i) => `S${i}`)],
  bars: [
    barsOf([1, 2, 3, 4, 9]),
    barsOf([1, 2, 3, 4, 5]),
    ...Array.from({ length: n }, (_, i) => barsOf([5, 4, 3, 2, 1 + (i % 2)])),
  ],
})

async function poolWith(n: number, size = 2): Promise<ScanPool> {
  const pool = new ScanPool(size)
  await pool.take('market', makeTable(many(n), { asOf: '' }, ownMemory))
  return pool
}

const scanJob = (rule: string, measures: string[] = []): Extract<Job, { ask: 'scan' }> => ({
  ask: 'scan',
  data: 'market',
  rule,
  measures,
})

async function scanned(pool: ScanPool, job: Extract<Job, { ask: 'scan' }>, rows?: number[]) {
  let all: ScanPart | undefined
  await pool.run(job, (part) => (all = addPart(all, part)), { rows })
  return finishScan(all!)
}

beforeAll(async () => {
  inThisThread()
  await import('./scan.worker')
})

afterAll(answered)

describe('the scan workers', () => {
  it('share out the rows of a table, tell what they found as it comes, and together look at all', async () => {
    const pool = await poolWith(600)
    const told: [number, number][] = []
    let all: ScanPart | undefined
    await pool.run(scanJob('close > 4', ['close * 2']), (part) => (all = addPart(all, part)), {
      progress: (done, of) => told.push([done, of]),
    })
    expect(finishScan(all!)).toMatchObject({ looked: 602, failed: 600 })
    expect(all!.rows.map((row) => [row.symbol, row.values[0]])).toEqual([
      ['INDEX', 18],
      ['RISES', 10],
    ])
    expect(told.length).toBeGreaterThan(3)
    expect(told.at(-1)).toEqual([602, 602])
  })

  it('look at the rows asked for, and explain one', async () => {
    const pool = await poolWith(4)
    expect((await scanned(pool, scanJob('close > 0'), [3])).rows.map((row) => row.symbol)).toEqual(['S1'])
    const about = { data: 'market', rule: 'close > 3', symbol: 'S0' }
    expect(await pool.explain(about)).toMatchObject({
      verdict: 'fails',
      sentence: 'close 1.00 is not above 3',
    })
    expect(await pool.explain({ ...about, symbol: 'NONE' })).toBeUndefined()
  })

  it('know the index, figures and drawings that they were told of', async () => {
    const pool = await poolWith(1)
    await pool.tell({
      indexOf: { RISES: 'INDEX' },
      reports: { RISES: [{ known: 0, eps: 2 }] },
      drawings: { RISES: [{ id: '1', kind: 'level', name: 'shelf', price: 4.5 }] },
    })
    const rule = 'earnings per share = $2 and close > level("shelf") and beside("index", close) > close'
    expect((await scanned(pool, scanJob(rule))).rows.map((row) => row.symbol)).toEqual(['RISES'])
  })

  it('as of a past moment see no later bar, of the index neither', async () => {
    const pool = await poolWith(1)
    await pool.tell({ indexOf: { RISES: 'INDEX' }, reports: {}, drawings: {} })
    const by = dateIn(many(0).bars[0].end[3] - 1, many(0).bars[0].zone)
    const then = await scanned(pool, { ...scanJob('beside("index", close) = 4'), by }, [1])
    expect(then.rows).toMatchObject([{ symbol: 'RISES', close: 4 }])
  })

  it('say what is wrong with a rule, and with data that they do not have', async () => {
    const pool = await poolWith(1)
    await expect(scanned(pool, scanJob('close > smaa(close)'))).rejects.toThrow('Did you mean sma?')
    await expect(scanned(pool, { ...scanJob('close > 1'), data: 'other' }, [0])).rejects.toThrow(
      'was not loaded',
    )
  })

  it('a canceled job stops after the pieces under way, and the next one runs', async () => {
    const pool = await poolWith(2000)
    const abort = new AbortController()
    let pieces = 0
    const running = pool.run(
      scanJob('close > 0'),
      () => {
        pieces++
        abort.abort()
      },
      { signal: abort.signal },
    )
    await expect(running).rejects.toThrow('canceled')
    expect(pieces).toBe(1)
    expect((await scanned(pool, scanJob('close > 4'))).rows).toHaveLength(2)
  })

  it('a worker that breaks fails what waits for it, in words', async () => {
    const pool = await poolWith(1, 1)
    const waiting = pool.run(scanJob('close > 1'), () => undefined)
    SameThread.made.at(-1)!.onerror?.({ message: 'out of memory' })
    await expect(waiting).rejects.toThrow('The scan stopped: out of memory. Try it again.')
  })
})
