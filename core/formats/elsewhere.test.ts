import { describe, expect, it } from '@jest/globals'
import { strToU8, zipSync } from 'fflate'
import { unpackTexts, isWorkbook } from './archive'
import { columnsOf, firstLines, openBarsText, readFiles } from './barFiles'
import { readBars } from './barsCsv'
import { decodeText } from './decodeText'
import { sayLine } from './say'

/** Files of bars as other programs write them. */

const read = (text: string, zone = 'America/Halifax') => {
  const file = openBarsText('TARN.csv', text)
  return readBars(file.grid, columnsOf(file), 'TARN', zone)
}
const bars = (text: string, zone?: string) => read(text, zone).securities[0].bars
const starts = (text: string, zone?: string) =>
  Array.from(bars(text, zone).time, (t) => new Date(t).toISOString())

const THURSDAY_FRIDAY = ['2026-03-12T00:00:00.000Z', '2026-03-13T00:00:00.000Z']

describe('encodings (Unicode Standard, section 23.8: byte order marks)', () => {
  const text = 'date,open,high,low,close\n2026-03-12,1,2,1,2\n'
  const utf16 = (little: boolean) =>
    Uint8Array.from(
      [0xfeff, ...Array.from(text, (c) => c.charCodeAt(0))].flatMap((unit) =>
        little ? [unit & 255, unit >> 8] : [unit >> 8, unit & 255],
      ),
    )
  it.each([
    ['UTF-8', new TextEncoder().encode(text)],
    ['UTF-8 with a mark', new TextEncoder().encode(`\uFEFF${text}`)],
    ['UTF-16, little end first', utf16(true)],
    ['UTF-16, big end first', utf16(false)],
  ])('%s', (_, bytes) => expect(read(decodeText(bytes)).good).toBe(1))

  it('bytes that are no UTF-8 are read as older programs write them', () => {
    expect(decodeText(Uint8Array.of(0x48, 0xf6, 0x63, 0x68, 0x73, 0x74))).toBe('Höchst')
  })
})

describe('names of columns', () => {
  it.each([
    ['in brackets', '<TICKER>,<DATE>,<OPEN>,<HIGH>,<LOW>,<CLOSE>,<VOL>\nBECK,20260312,1,3,1,2,7'],
    [
      'of two words',
      'Symbol;Trade Date;Open Price;High Price;Low Price;Last Price;Volume\nBECK;12.03.2026;1;3;1;2;7',
    ],
    ['in German', 'Name;Datum;Eröffnung;Hoch;Tief;Schluss;Volumen\nBECK;12.03.2026;1,0;3,0;1,0;2,0;7'],
    ['with a choice', 'Symbol,Date,Close/Last,Volume,Open,High,Low\nBECK,03/12/2026,$2,7,$1,$3,$1'],
    [
      'in capitals with underscores',
      'SYMBOL,TRADE_DATE,OPEN,HIGH,LOW,CLOSE,TOTAL,VOL\nBECK,2026/03/12,1,3,1,2,99,7',
    ],
  ])('%s', (_, text) => {
    const { securities } = read(text)
    const { open, high, low, close, volume, time } = securities[0].bars
    expect(securities[0].symbol).toBe('BECK')
    expect([open[0], high[0], low[0], close[0], volume[0]]).toEqual([1, 3, 1, 2, 7])
    expect(new Date(time[0]).toISOString()).toBe(THURSDAY_FRIDAY[0])
  })

  it('none at all: columns are told by what they hold', () => {
    const text =
      'BECK,20260312,930,10,12,9,11,500\nBECK,20260312,931,11,13,10,10.5,600\nBECK,20260312,932,10.5,11,9,9.5,700'
    const file = openBarsText('x.txt', text)
    expect(file.headed).toBe(false)
    expect(columnsOf(file)).toMatchObject({
      symbol: 0,
      date: 1,
      time: 2,
      open: 3,
      high: 4,
      low: 5,
      close: 6,
      volume: 7,
    })
    expect(starts(text)).toEqual(['30', '31', '32'].map((m) => `2026-03-12T12:${m}:00.000Z`))
  })

  it('high and low before the open are found by what they are', () => {
    const file = openBarsText('x.txt', '2026-03-12,12,9,10,11\n2026-03-13,13,10,11,12\n')
    expect(columnsOf(file)).toMatchObject({ date: 0, high: 1, low: 2, open: 3, close: 4 })
  })

  it('what names leave open is told by what the columns hold', () => {
    const file = openBarsText('x.csv', 'when,p,q,r,s,how many\n2026-03-12,10,12,9,11,500\n')
    expect(columnsOf(file)).toMatchObject({ date: 0, open: 1, high: 2, low: 3, close: 4, volume: 5 })
  })
})

describe('dates and times', () => {
  it.each([
    ['in two columns', 'Date,Time,Open,High,Low,Close\n2026-03-12,09:30,1,1,1,1\n2026-03-12,09:35,1,1,1,1'],
    [
      'in two columns, digits',
      '<DATE>,<TIME>,<OPEN>,<HIGH>,<LOW>,<CLOSE>\n20260312,93000,1,1,1,1\n20260312,093500,1,1,1,1',
    ],
    [
      'half days',
      'Date,Time,Open,High,Low,Close\n3/12/2026,9:30 AM,1,1,1,1\n3/12/2026,9:35 AM,1,1,1,1\n3/13/2026,9:30 AM,1,1,1,1',
    ],
    ['points', 'datetime,open,high,low,close\n2026.03.12 09:30,1,1,1,1\n2026.03.12 09:35:00,1,1,1,1'],
  ])('%s', (_, text) => {
    expect(starts(text).slice(0, 2)).toEqual(['2026-03-12T12:30:00.000Z', '2026-03-12T12:35:00.000Z'])
    expect(bars(text).every).toEqual({ count: 5, unit: 'min' })
  })

  it.each([
    [
      'noughts in a column of their own',
      'Date,Time,Open,High,Low,Close\n20260312,000000,1,1,1,1\n20260313,000000,1,1,1,1',
    ],
    [
      'noughts behind the date',
      'time,open,high,low,close\n2026-03-12 00:00:00,1,1,1,1\n2026-03-13 00:00:00,1,1,1,1',
    ],
    [
      'noughts with an offset',
      'time,open,high,low,close\n2026-03-12T00:00:00+09:00,1,1,1,1\n2026-03-13T00:00:00+09:00,1,1,1,1',
    ],
    [
      'noughts of UTC since 1970',
      `time,open,high,low,close\n${Date.UTC(2026, 2, 12) / 1000},1,1,1,1\n${Date.UTC(2026, 2, 13) / 1000},1,1,1,1`,
    ],
    [
      'stamped with the close',
      'time,open,high,low,close\n2026-03-12 16:00,1,1,1,1\n2026-03-13 16:00,1,1,1,1',
    ],
    ['months named', 'date,open,high,low,close\n12-Mar-2026,1,1,1,1\n13-Mar-26,1,1,1,1'],
    ['months first', 'date,open,high,low,close\n"Mar 12, 2026",1,1,1,1\n"Mar 13, 2026",1,1,1,1'],
  ])('daily bars, %s, are the dates that are written, in every zone', (_, text) => {
    for (const zone of ['America/Los_Angeles', 'Pacific/Auckland', 'UTC']) {
      expect(starts(text, zone)).toEqual(THURSDAY_FRIDAY)
      expect(bars(text, zone).every).toEqual({ count: 1, unit: 'day' })
      expect(read(text, zone).datesOnly).toBe(true)
    }
  })

  it('bad dates and times of day are left out, the line named', () => {
    const { bad } = read(
      'Date,Time,Open,High,Low,Close\n2026-03-12,09:30,1,1,1,1\n2026-03-12,25:00,1,1,1,1\n2026-03-12,,1,1,1,1\n30-Feb-2026,09:30,1,1,1,1',
    )
    expect(bad.map(({ line, problem }) => ({ line, reason: sayLine(problem) }))).toEqual([
      { line: 3, reason: '"25:00" is not a time of day' },
      { line: 4, reason: 'the time is empty' },
      { line: 5, reason: '"30-Feb-2026" is not a date or time' },
    ])
  })
})

it('up and down trades are read where the file counts them', () => {
  const { uptrades, downtrades } = bars(
    'date,open,high,low,close,volume,Up,Down\n2026-03-12,1,1,1,1,9,5,4\n2026-03-13,1,1,1,1,9,,2',
  )
  expect([...uptrades!]).toEqual([5, NaN])
  expect([...downtrades!]).toEqual([4, 2])
})

describe('an archive', () => {
  const line = (close: number) =>
    strToU8(`date,open,high,low,close\n2026-03-12,${close},${close},${close},${close}\n`)
  it('of hundreds of files is one set; folders, hidden files and others are passed over', () => {
    const names = Array.from({ length: 300 }, (_, i) => `bars/S${String(i).padStart(3, '0')}.csv`)
    const bytes = zipSync({
      ...Object.fromEntries(names.map((name, i) => [name, line(i + 1)])),
      'bars/._S000.csv': line(1),
      'readme.md': strToU8('hello'),
    })
    expect(isWorkbook(bytes)).toBe(false)
    const files = unpackTexts(bytes).map(({ name, bytes: part }) => openBarsText(name, decodeText(part)))
    const { securities, bad } = readFiles(files, columnsOf(files[0]), 'UTC')
    expect([securities.length, bad.length]).toEqual([300, 0])
    expect(securities[299]).toMatchObject({ symbol: 'S299' })
    expect(securities[299].bars.close[0]).toBe(300)
  })
  it('without any, or damaged, says so', () => {
    expect(() => unpackTexts(zipSync({ 'a.png': line(1) }))).toThrow('archive_empty')
    expect(() => unpackTexts(zipSync({ 'a.csv': line(1) }).slice(0, 40))).toThrow('archive_damaged')
  })
})

it('first lines show each as it stands and as it is read, or why it is not', () => {
  const file = openBarsText(
    'TARN.csv',
    'Datum;Open;High;Low;Close\n13.03.2026;2;3;2;3\nsoon;1;1;1;1\n12.03.2026;1;2;1;2',
  )
  const lines = firstLines(file, readBars(file.grid, columnsOf(file), 'TARN', 'America/Halifax'))
  expect(
    lines.map(({ line, read: as, problem }) => [line, as?.when, as?.close, problem && sayLine(problem)]),
  ).toEqual([
    [2, 'Fri 13 Mar 2026', 3, undefined],
    [3, undefined, undefined, '"soon" is not a date or time'],
    [4, 'Thu 12 Mar 2026', 2, undefined],
  ])
})
