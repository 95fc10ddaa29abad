import { afterAll, beforeAll, describe, expect, it, jest } from '@jest/globals'
import { makeTable, ownMemory } from '@/core/market/barTable'
import { dateIn } from '@/core/market/moments'
import { type Node, parse } from '@/core/rules'
import { finishScan, addPart, type ScanPart } from '@/core/scan/scan'
import { barsOf } from '@/tests/bars'
import { answered, inThisThread, SameThread } from '@/tests/sameThread'
import { type Job } from './scan.protocol'
import { type WorkerFailure } from './problems'
import { sayWorkerProblem } from './say'
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
  await pool.forget('market')
  await pool.take('market', [makeTable(many(n), { asOf: '' }, ownMemory)])
  return pool
}

const tree = (text: string): Node => parse(text).tree!

const RISES_LISTED = { index: 'INDEX', currency: 'USD', increments: [{ from: 0, step: 0.01 }] }

const scanJob = (rule: string, measures: string[] = []): Extract<Job, { ask: 'scan' }> => ({
  ask: 'scan',
  data: 'market',
  rule: tree(rule),
  measures: measures.map(tree),
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

/** As it is, before a test has some of it held back. */
const post = SameThread.prototype.postMessage

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
    const about = { data: 'market', rule: tree('close > 3'), symbol: 'S0' }
    expect(await pool.explain(about)).toMatchObject({
      verdict: 'fails',
      sentence: 'close 1.00 is not above 3',
    })
    expect(await pool.explain({ ...about, symbol: 'NONE' })).toBeUndefined()
  })

  it('know the index, figures and drawings that they were told of', async () => {
    const pool = await poolWith(1)
    await pool.tell({
      listed: { RISES: RISES_LISTED },
      reports: { RISES: [{ known: 0, eps: 2 }] },
      drawings: { RISES: [{ id: '1', kind: 'level', name: 'shelf', price: 4.5 }] },
    })
    const rule = 'earnings per share = $2 and close > level("shelf") and beside("index", close) > close'
    expect((await scanned(pool, scanJob(rule))).rows.map((row) => row.symbol)).toEqual(['RISES'])
  })

  it('as of a past moment see no later bar, of the index neither', async () => {
    const pool = await poolWith(1)
    await pool.tell({ listed: { RISES: RISES_LISTED }, reports: {}, drawings: {} })
    const by = dateIn(many(0).bars[0].end[3] - 1, many(0).bars[0].zone)
    const then = await scanned(pool, { ...scanJob('beside("index", close) = 4'), by }, [1])
    expect(then.rows).toMatchObject([{ symbol: 'RISES', close: 4 }])
  })

  it('know what the account held, and nothing of it where nobody told them', async () => {
    const pool = await poolWith(1)
    const since = many(0).bars[0].end[2]
    const holding = { since, shares: 40, averagePrice: 3, opened: since }
    const measures = ['shares held', 'average price', 'unrealised profit', 'bars held']
    const values = async () =>
      (await scanned(pool, scanJob('close > 4', measures))).rows.map((row) => [row.symbol, ...row.values])
    await pool.tell({ listed: {}, reports: {}, drawings: {} })
    expect(await values()).toEqual([
      ['INDEX', NaN, NaN, NaN, NaN],
      ['RISES', NaN, NaN, NaN, NaN],
    ])
    await pool.tell({ listed: {}, reports: {}, drawings: {}, holdings: { RISES: [holding] } })
    expect(await values()).toEqual([
      ['INDEX', 0, NaN, NaN, NaN],
      ['RISES', 40, 3, 80, 2],
    ])
  })

  it('take further tables behind those they have', async () => {
    const pool = await poolWith(1, 1)
    const more = { symbols: ['LATE'], bars: [barsOf([5, 6, 7])] }
    await pool.take('market', [makeTable(more, { asOf: '' }, ownMemory)])
    expect((await scanned(pool, scanJob('close > 4'))).rows.map((row) => row.symbol)).toEqual([
      'INDEX',
      'RISES',
      'LATE',
    ])
  })

  it('say what is wrong with data that they do not have', async () => {
    const pool = await poolWith(1)
    const wrong = await scanned(pool, { ...scanJob('close > 1'), data: 'other' }, [0]).catch(
      (e: unknown) => e,
    )
    expect(wrong).toMatchObject({ problem: { code: 'data_missing', data: 'other' } })
    expect(sayWorkerProblem((wrong as WorkerFailure).problem)).toContain('were not loaded')
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
    await expect(running).rejects.toThrow('called off')
    expect(pieces).toBe(1)
    expect((await scanned(pool, scanJob('close > 4'))).rows).toHaveLength(2)
  })

  it('no job waits for a worker that is slow to load; it takes its share once it has', async () => {
    const heard: string[] = []
    const slow = jest.spyOn(SameThread.prototype, 'postMessage').mockImplementation(function (
      this: SameThread,
      data: unknown,
    ) {
      if (this === SameThread.made.at(-1) && SameThread.made.length > before + 1)
        heard.push((data as { ask: string }).ask)
      else post.call(this, data)
    })
    const before = SameThread.made.length
    const pool = await poolWith(600)
    expect((await scanned(pool, scanJob('close > 4'))).rows).toHaveLength(2)
    // It was given the bars all the same, in their order.
    expect(heard).toEqual(['ready', 'forget', 'take'])
    slow.mockRestore()
  })

  it('a worker that breaks fails what waits for it, in words', async () => {
    const pool = await poolWith(1, 1)
    const waiting = pool.run(scanJob('close > 1'), () => undefined)
    SameThread.made.at(-1)!.onerror?.({ message: 'out of memory' })
    await expect(waiting).rejects.toMatchObject({ problem: { code: 'broken', reason: 'out of memory' } })
    expect(sayWorkerProblem({ code: 'broken', reason: 'out of memory' })).toContain(
      'out of memory. Try it again.',
    )
  })
})
