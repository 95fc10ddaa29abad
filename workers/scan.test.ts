import { beforeAll, describe, expect, it } from '@jest/globals'
import { encodeBars } from '@/core/formats/barsBinary'
import { barsOf } from '@/tests/bars'
import { type ScanAnswer, type ScanRequest } from './scan.protocol'
import { ScanClient } from './scanClient'

/** The worker's own code in this thread, behind the interface of a worker. */
class SameThread {
  static made: SameThread[] = []
  onmessage: ((event: { data: unknown }) => void) | undefined
  onerror: ((event: { message: string }) => void) | undefined
  ended = false

  constructor() {
    SameThread.made.push(this)
  }

  postMessage(data: ScanRequest): void {
    // As a real one would: later, and never after it was ended.
    setTimeout(() => {
      if (this.ended) return
      SameThread.now = this
      ;(globalThis as unknown as { onmessage(event: { data: ScanRequest }): void }).onmessage({ data })
    }, 0)
  }

  terminate(): void {
    this.ended = true
  }

  static now: SameThread | undefined
}

const market = () =>
  encodeBars(
    [
      { symbol: 'RISES', bars: barsOf([1, 2, 3, 4, 5]) },
      { symbol: 'FALLS', bars: barsOf([5, 4, 3, 2, 1]) },
    ],
    'now',
  ).buffer as ArrayBuffer

beforeAll(async () => {
  Object.assign(globalThis, {
    Worker: SameThread,
    postMessage: (data: ScanAnswer) => {
      const to = SameThread.now!
      if (!to.ended) to.onmessage?.({ data })
    },
  })
  await import('./scan.worker')
})

describe('the scan worker', () => {
  it('takes bars, scans among those asked for, and explains', async () => {
    const client = new ScanClient()
    expect(await client.load('market', market())).toEqual({ securities: 2, asOf: 'now' })
    const told: number[] = []
    const result = await client.scan({ data: 'market', rule: 'close > 3', measures: ['close * 2'] }, (done) =>
      told.push(done),
    )
    expect(result.rows).toMatchObject([{ symbol: 'RISES', values: [10] }])
    expect(told.length).toBeGreaterThan(0)
    const among = await client.scan({ data: 'market', rule: 'close > 0', measures: [], among: ['FALLS'] })
    expect(among.rows.map((row) => row.symbol)).toEqual(['FALLS'])
    const why = await client.explain({ data: 'market', rule: 'close > 3', symbol: 'FALLS' })
    expect(why).toMatchObject({ verdict: 'fails', sentence: 'close 1.00 is not above 3' })
    expect(await client.explain({ data: 'market', rule: 'close > 3', symbol: 'NONE' })).toBeUndefined()
  })

  it('takes bars of the trader’s own, and a timeframe beside them', async () => {
    const client = new ScanClient()
    await client.loadOwn('own', { symbols: ['TARN'], bars: [barsOf([1, 2, 3])] })
    const result = await client.scan({ data: 'own', rule: 'close > earlier(close, 1 bar)', measures: [] })
    expect(result).toMatchObject({ looked: 1, rows: [{ symbol: 'TARN', hits: 1 }] })
  })

  it('says what is wrong with a rule, with bars cut off, with data that it does not have', async () => {
    const client = new ScanClient()
    await client.load('market', market())
    await expect(client.scan({ data: 'market', rule: 'close > smaa(close)', measures: [] })).rejects.toThrow(
      'Did you mean sma?',
    )
    await expect(client.scan({ data: 'other', rule: 'close > 1', measures: [] })).rejects.toThrow(
      'was not loaded',
    )
    await expect(client.load('market', market().slice(0, 40))).rejects.toThrow('cut off')
  })

  it('a canceled scan is told as canceled, and a new worker takes over', async () => {
    const client = new ScanClient()
    await client.load('market', market())
    const before = SameThread.made.length
    const running = client.scan({ data: 'market', rule: 'close > 1', measures: [] })
    client.end(new Error('canceled'))
    await expect(running).rejects.toThrow('canceled')
    await client.load('market', market())
    expect(SameThread.made.length).toBe(before + 1)
    expect((await client.scan({ data: 'market', rule: 'close > 0', measures: [] })).rows).toHaveLength(2)
  })

  it('a worker that breaks fails what waits for it, in words', async () => {
    const client = new ScanClient()
    const waiting = client.scan({ data: 'market', rule: 'close > 1', measures: [] })
    SameThread.made.at(-1)!.onerror?.({ message: 'out of memory' })
    await expect(waiting).rejects.toThrow('The scan stopped: out of memory. Try it again.')
  })
})
