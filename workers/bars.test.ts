import { afterAll, beforeAll, describe, expect, it } from '@jest/globals'
import { answered, inThisThread, SameThread } from '@/tests/sameThread'
import { missingFields } from '@/core/formats/barColumns'
import { BarsReader } from './barsReader'
import { sayFailure } from './say'

beforeAll(async () => {
  inThisThread()
  await import('./bars.worker')
})
afterAll(answered)

const file = (name: string, lines: readonly string[]) =>
  new File([lines.join('\n')], name, { type: 'text/csv' })
const DAYS = ['Date,Open,High,Low,Last', '2026-03-12,1,2,1,2', '2026-03-13,2,3,2,3', 'never,1,1,1,1']

describe('files of bars that are read away from the page', () => {
  it('are opened once, and read with the columns that are chosen', async () => {
    const reader = new BarsReader()
    const opened = await reader.open([file('TARN.csv', DAYS)], 100)
    expect(opened).toMatchObject({
      names: ['TARN.csv'],
      columns: ['Date', 'Open', 'High', 'Low', 'Last'],
      failed: [],
    })
    const { securities, good, bad } = await reader.read(opened.map, 'UTC')
    expect([securities[0].symbol, good, bad.map((b) => b.line)]).toEqual(['TARN', 2, [4]])
    expect([...securities[0].bars.close]).toEqual([2, 3])
    // Another choice reads the same file again.
    const other = await reader.read({ ...opened.map, close: opened.map.open, low: opened.map.open }, 'UTC')
    expect([...other.securities[0].bars.close]).toEqual([1, 2])
  })

  it('rows that a workbook was read as are taken as they are', async () => {
    const reader = new BarsReader()
    const grid = {
      columns: ['symbol', 'date', 'open', 'high', 'low', 'close'],
      rows: [{ line: 2, cells: ['BECK', '2026-03-12', '5', '6', '4', '5'] }],
    }
    const opened = await reader.open([{ name: 'book.xlsx', headed: true, grid }], 100)
    expect((await reader.read(opened.map, 'UTC')).securities[0].symbol).toBe('BECK')
  })

  it.each([
    [
      'too long',
      file('long.csv', [...DAYS, ...DAYS.slice(1), ...DAYS.slice(1)]),
      { code: 'file', problem: { code: 'too_many_rows', rows: 9, limit: 4 } },
    ],
    ['empty', file('none.csv', []), { code: 'file', problem: { code: 'no_header', workbook: false } }],
    [
      'a damaged archive',
      new File(['PK', new Uint8Array(40)], 'bars.zip'),
      { code: 'file', problem: { code: 'archive_damaged' } },
    ],
  ])('one that is %s is left, with the reason; the others are read', async (_, wrong, problem) => {
    const opened = await new BarsReader().open([wrong, file('TARN.csv', DAYS)], 4)
    expect(opened.failed).toEqual([{ file: wrong.name, problem }])
    expect(opened.names).toEqual(['TARN.csv'])
  })

  it('one that holds no text at all is shown with no column known, so that nothing of it is kept unseen', async () => {
    const opened = await new BarsReader().open([new File([new Uint8Array(400)], 'noise.csv')], 4)
    expect(missingFields(opened.map)).toEqual(['date', 'open', 'high', 'low', 'close'])
  })

  it('a worker that breaks fails what waits for it, in words', async () => {
    const reader = new BarsReader()
    const waiting = reader.open([file('TARN.csv', DAYS)], 100)
    SameThread.made.at(-1)!.onerror?.({ message: 'out of memory' })
    const wrong = await waiting.catch((error: unknown) => error)
    expect(wrong).toMatchObject({ problem: { code: 'broken', reason: 'out of memory' } })
    expect(sayFailure(wrong)).toContain('stopped: out of memory')
  })
})
