import { afterAll, beforeAll, describe, expect, it } from '@jest/globals'
import { strToU8, zipSync } from 'fflate'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { readCsv } from '@/core/formats/csv'
import { tempDir } from '@/tests/broker'
import { heron } from '@/tests/command'

let dir: Awaited<ReturnType<typeof tempDir>>
const path = (name: string) => join(dir.path, name)

const DAYS = ['2026-03-09', '2026-03-10', '2026-03-11', '2026-03-12', '2026-03-13', '2026-03-16']
const german = [
  'Datum;Zeit;Eröffnung;Hoch;Tief;Close/Last;Stück',
  ...DAYS.map((d, i) => `${d};000000;${i + 1};${i + 2};${i + 1};${i + 2};5`),
].join('\n')
const plain = (from: number) =>
  [
    'date,open,high,low,close',
    ...DAYS.map((d, i) => `${d},${from + i},${from + i},${from + i},${from + i}`),
  ].join('\n')

beforeAll(async () => {
  dir = await tempDir()
  writeFileSync(path('german.csv'), Buffer.from(`\uFEFF${german}`, 'utf16le'))
  writeFileSync(
    path('odd.csv'),
    german.replace('Datum', 'A').replace('Zeit', 'B').replace('Close/Last', 'Was, es kostet'),
  )
  writeFileSync(path('TARN.csv'), plain(10))
  writeFileSync(path('all.zip'), zipSync({ 'TARN.csv': strToU8(plain(10)), 'BECK.csv': strToU8(plain(20)) }))
})
afterAll(() => dir.remove())

describe('files from elsewhere, on the command line', () => {
  it('UTF-16 with a mark, other names, times of nought: daily bars as they are written', async () => {
    const { code, out } = await heron('indicators', '--bars', path('german.csv'), '--expr', 'close')
    expect(code).toBe(0)
    expect(readCsv(out).rows.map((r) => r.cells)).toEqual(DAYS.map((d, i) => [`${d} 000000`, String(i + 2)]))
  })

  it('--columns says which is which, by name, with commas in quotes, or by number', async () => {
    const columns = 'date=A,time=2,close="Was, es kostet"'
    const { code, out } = await heron(
      'indicators',
      '--bars',
      path('odd.csv'),
      '--columns',
      columns,
      '--expr',
      'close',
    )
    expect([code, readCsv(out).rows.length, readCsv(out).rows[0].cells[1]]).toEqual([0, 6, '2'])
    const wrong = async (text: string) =>
      (await heron('scan', '--rule', 'close > 1', '--bars', path('odd.csv'), '--columns', text)).err
    expect(await wrong('price=A')).toContain('names no field')
    expect(await wrong('date=Nowhere')).toContain('there is no column "Nowhere". There are "A", "B"')
  })

  it('an archive is all of its files', async () => {
    const { out } = await heron('scan', '--rule', 'close > 1', '--bars', path('all.zip'))
    expect(readCsv(out).rows.map((r) => r.cells)).toEqual([
      ['BECK', '2026-03-16', '25'],
      ['TARN', '2026-03-16', '15'],
    ])
  })

  it.each(['Asia/Tokyo', 'America/Los_Angeles', 'UTC'])(
    '--as-of is that date in every zone: %s',
    async (zone) => {
      const args = [
        'scan',
        '--rule',
        'close > 1',
        '--bars',
        path('TARN.csv'),
        '--as-of',
        '2026-03-12',
        '--zone',
        zone,
      ]
      expect(readCsv((await heron(...args)).out).rows.map((r) => r.cells)).toEqual([
        ['TARN', '2026-03-12', '13'],
      ])
    },
  )

  it('indicators --every makes longer bars first', async () => {
    const { out } = await heron(
      'indicators',
      '--bars',
      path('TARN.csv'),
      '--every',
      '1 week',
      '--expr',
      'close',
    )
    // The week of the 16th is not over.
    expect(out).toBe('date,close\n2026-03-09,14\n')
  })

  it('indicators --list says what can be measured, by any usual name or part of its explanation', async () => {
    const list = async (...word: string[]) => (await heron('indicators', '--list', ...word)).out
    expect((await list()).split('\n').length).toBeGreaterThan(80)
    expect(await list('mfi')).toMatch(/^moneyflow\(14\) {2}Money flow index/)
    expect(await list('true range')).toContain('atr(14)')
    expect(await list('bands')).toContain('Gives .middle .upper .lower.')
    const none = await heron('indicators', '--list', 'moonlight')
    expect([none.code, none.err]).toEqual([2, expect.stringContaining('Nothing fits "moonlight"')])
  })
})
