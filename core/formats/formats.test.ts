import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { barsOf, gappyPrices } from '@/tests/bars'
import { openBarsText, readFiles } from './barFiles'
import { openTable } from '../market/barTable'
import { decodeBars, encodeBars } from './barsBinary'
import { matchColumns, missingFields, NO_COLUMNS } from './barColumns'
import { readBars } from './barsCsv'
import { readNumber } from './numbers'
import { sayCell, sayFile, sayLine } from './say'
import { readCsv, writeCsv } from './csv'
import { readSheet, SHEET_COLUMNS, SHEET_TEMPLATE } from './orderSheet'
import { FileFailure } from './problems'

/** What a file that cannot be read is told. */
function failing(read: () => unknown): string {
  try {
    read()
  } catch (error) {
    if (error instanceof FileFailure) return sayFile(error.problem)
    throw error
  }
  return ''
}

describe('CSV (RFC 4180)', () => {
  it('what is written reads back the same', () => {
    const cell = fc.string().map((s) => s.replace(/[\r\n]+/g, ' ').trim())
    fc.assert(
      fc.property(fc.array(fc.tuple(cell, cell), { minLength: 1 }), (rows) => {
        const filled = rows.filter((row) => row.some((c) => c !== ''))
        // A leading "=", "+", "-" or "@" is written as text, so that no spreadsheet runs it.
        const safe = (c: string) => c.replace(/^([=+\-@](?!\d))/, "'$1")
        const read = readCsv(writeCsv(['first', 'second'], filled)).rows.map((r) => r.cells)
        expect(read).toEqual(filled.map((row) => row.map(safe)))
      }),
    )
  })

  it('quotes commas and quotes, ends lines with CRLF, leaves unknown numbers empty', () => {
    expect(writeCsv(['a', 'b'], [['x, "y"', NaN]])).toBe('a,b\r\n"x, ""y""",\r\n')
  })

  it('cells that a spreadsheet would run are made text', () => {
    expect(writeCsv(['a'], [['=HYPERLINK("x")']])).not.toMatch(/\n"?=/)
    expect(writeCsv(['a'], [[-5]])).toContain('\n-5')
  })

  it('finds the delimiter, passes over empty lines, keeps line numbers', () => {
    expect(readCsv('\uFEFFa;b\n1;2\n\n3;4\n')).toEqual({
      columns: ['a', 'b'],
      rows: [
        { line: 2, cells: ['1', '2'] },
        { line: 4, cells: ['3', '4'] },
      ],
    })
  })

  it('says what is wrong with a file that is none', () => {
    expect(failing(() => readCsv(''))).toContain('no header line')
    expect(failing(() => readCsv('a,b\n"never closed,1\n'))).toContain('never closed')
  })
})

describe('bars from CSV', () => {
  const read = (text: string, zone = 'America/Halifax') => {
    const grid = readCsv(text)
    return readBars(grid, matchColumns(grid.columns), 'FILE', zone)
  }
  const head = 'date,open,high,low,close,volume\n'

  it('matches columns by many names', () => {
    expect(matchColumns(['Ticker', 'Trade Date', 'O', 'H', 'L', 'Last', 'Vol.'])).toEqual({
      ...NO_COLUMNS,
      symbol: 0,
      date: 1,
      open: 2,
      high: 3,
      low: 4,
      close: 5,
      volume: 6,
    })
    expect(missingFields(matchColumns(['date', 'close']))).toEqual(['open', 'high', 'low'])
  })

  it('keeps good lines and lists bad ones with number and reason', () => {
    const { securities, bad, good } = read(
      `${head}2026-03-12,10,11,9,10.5,100\n2026-03-13,x,11,9,10,1\n2026-03-14,10,9,11,10,1\nsoon,1,1,1,1,1\n2026-03-12,1,1,1,1,1\n2026-03-15,10,11,9,-1,1\n2026-03-16,10,10.2,9,10.5,1\n2026-03-17,10,11,9,10,-4\n2026-03-11,10,11,9,10,`,
    )
    expect(good).toBe(2)
    expect(securities[0].bars.close.length).toBe(2)
    expect(securities[0].lines).toEqual([10, 2])
    expect(securities[0].bars.volume[0]).toBeNaN()
    expect(bad.map(({ line, problem }) => ({ line, reason: sayLine(problem) }))).toEqual([
      { line: 3, reason: 'open "x" is not a number' },
      { line: 4, reason: 'high 9 is below low 11' },
      { line: 5, reason: '"soon" is not a date or time' },
      { line: 6, reason: 'the same time as line 2; the first is kept' },
      { line: 7, reason: 'close -1 is not above nought' },
      { line: 8, reason: 'high 10.2 is below the open or close' },
      { line: 9, reason: 'volume -4 is below nought' },
    ])
  })

  it.each([
    ['2026-03-13', '2026-03-13T00:00:00Z'],
    ['20260313', '2026-03-13T00:00:00Z'],
    ['13.03.2026', '2026-03-13T00:00:00Z'],
    ['3/13/2026', '2026-03-13T00:00:00Z'],
    ['2026-03-13 09:30', '2026-03-13T12:30:00Z'],
    ['2026-03-06 09:30', '2026-03-06T13:30:00Z'],
    ['2026-03-13T09:30:00-04:00', '2026-03-13T13:30:00Z'],
    ['2026-03-13T12:30:00Z', '2026-03-13T12:30:00Z'],
  ])('%s is %s (zone America/Halifax where none is named)', (text, utc) => {
    const { securities } = read(`${head}${text},1,1,1,1,1\n`)
    expect(new Date(securities[0].bars.time[0]).toISOString()).toBe(new Date(utc).toISOString())
  })

  it('tells minute bars from daily ones, and weekly ones', () => {
    const row = (t: string) => `${t},1,1,1,1,1\n`
    const every = (rows: string[]) => read(head + rows.map(row).join('')).securities[0].bars.every
    expect(every(['2026-03-13 09:30', '2026-03-13 09:35', '2026-03-13 09:40'])).toEqual({
      count: 5,
      unit: 'min',
    })
    expect(every(['2026-03-12', '2026-03-13'])).toEqual({ count: 1, unit: 'day' })
    expect(every(['2026-03-02', '2026-03-09', '2026-03-16'])).toEqual({ count: 1, unit: 'week' })
  })

  it.each([
    ['1,234.5', 1234.5],
    ['1.234,5', 1234.5],
    ['12,5', 12.5],
    ['0,7311', 0.7311],
    ['0,731', 0.731],
    ['18,3755', 18.3755],
    ['12,345', 12345],
    ['$ 48.21', 48.21],
    ['1e3', 1000],
    ['0x10', NaN],
    ['', NaN],
  ])('number "%s" is %d', (text, value) => expect(readNumber(text)).toBe(value))

  it('files as one set: a second file of a symbol and other lengths of bars are told', () => {
    const file = (name: string, rows: string) => openBarsText(name, head + rows)
    const daily = '2026-03-12,1,1,1,1,1\n2026-03-13,1,1,1,1,1\n'
    const minutes = '2026-03-13 09:30,1,1,1,1,1\n2026-03-13 09:31,1,1,1,1,1\n'
    const files = [
      file('a.csv', daily),
      file('a.txt', daily),
      file('b.csv', minutes),
      openBarsText('c.csv', 'x,y\n1,2\n'),
    ]
    const { securities, bad, mixed } = readFiles(files, matchColumns(files[0].grid.columns), 'UTC')
    expect(securities.map((s) => s.symbol)).toEqual(['A', 'B'])
    expect(bad.map((b) => `${b.file}: ${sayLine(b.problem)}`)).toEqual([
      'a.txt: A came in an earlier file already; the first is kept',
      'c.csv: no column for date, open, high, low, close',
    ])
    expect(mixed).toEqual(['1 day', '1 min'])
  })
})

describe('FHB1, bars in one compact message', () => {
  it('gives back what went in, unknown prices included', () => {
    fc.assert(
      fc.property(gappyPrices(40), gappyPrices(40), (one, two) => {
        const sent = { symbols: ['S0', 'S1'], bars: [one, two].map((xs) => barsOf(xs)) }
        const bytes = encodeBars(sent, '2026-03-16T10:42:00-03:00')
        const got = openTable(decodeBars(bytes.buffer as ArrayBuffer))
        expect(got.symbols).toEqual(['S0', 'S1'])
        sent.bars.forEach((bars, i) => {
          for (const name of ['time', 'end', 'open', 'high', 'low', 'close', 'volume'] as const)
            expect([...got.bars[i][name]]).toEqual([...bars[name]])
        })
      }),
    )
  })

  it('securities of one calendar share its columns', () => {
    const bars = barsOf([1, 2, 3])
    const sent = { symbols: ['A', 'B'], bars: [bars, { ...barsOf([4, 5, 6]), uptrades: bars.volume }] }
    const table = decodeBars(encodeBars(sent, '').buffer as ArrayBuffer)
    expect(table.calendars).toHaveLength(1)
    const got = openTable(table)
    expect(got.bars[0].time.buffer).toBe(got.bars[1].time.buffer)
    expect(got.bars[0].uptrades![0]).toBeNaN()
    expect([...got.bars[1].uptrades!]).toEqual([...bars.volume])
    expect([...got.bars[1].close]).toEqual([4, 5, 6])
  })

  it('a message cut off anywhere is refused', () => {
    const bytes = encodeBars({ symbols: ['A'], bars: [barsOf([1, 2, 3])] }, '')
    for (let n = 0; n < bytes.length; n += 3)
      expect(() => decodeBars(bytes.slice(0, n).buffer as ArrayBuffer)).toThrow(FileFailure)
  })

  it('a price too large for the form is refused, not cut', () => {
    const large = { symbols: ['A'], bars: [barsOf([300_000])] }
    expect(failing(() => encodeBars(large, ''))).toContain('does not fit')
  })
})

describe('orders from a spreadsheet', () => {
  const sheet = (...rows: string[]) =>
    readSheet(
      readCsv(['symbol,side,quantity,type,price,trigger,good for,stop,target,id,note', ...rows].join('\n')),
    )

  it('reads the template without an error', () => {
    const { rows, ignored } = readSheet(readCsv(writeCsv([...SHEET_COLUMNS], SHEET_TEMPLATE)))
    expect(ignored).toEqual([])
    expect(rows.every((row) => row.order)).toBe(true)
  })

  it('reads every way to say how many and where to leave', () => {
    const { rows } = sheet(
      'ospry,buy,0.8% risk,limit,48.21,,gtc,3%,$51.58,,x',
      'GANET,sell short,10% equity,stop,,90,,40 ticks,,,',
    )
    expect(rows[0].order).toMatchObject({
      symbol: 'OSPRY',
      side: 'Buy',
      sizing: { by: 'risk', percentOfEquity: 0.8 },
      ordType: 'Limit',
      price: 48.21,
      timeInForce: 'GoodTillCancel',
      exits: { stop: { percent: 3 }, target: { price: 51.58 } },
      text: 'x',
    })
    expect(rows[1].order).toMatchObject({
      side: 'SellShort',
      sizing: { by: 'equity', percentOfEquity: 10 },
      ordType: 'Stop',
      stopPx: 90,
      exits: { stop: { ticks: 40 } },
    })
    const kinds = sheet('OSPRY,buy,1,stop limit,50.20,50', 'OSPRY,buy,1,limit,50,,ioc').rows
    expect(kinds[0].order).toMatchObject({ ordType: 'StopLimit', price: 50.2, stopPx: 50 })
    expect(kinds[1].order).toMatchObject({ ordType: 'Limit', timeInForce: 'ImmediateOrCancel' })
  })

  it.each([
    [',buy,1', 'symbol'],
    ['OSPRY,purchase,1', 'side'],
    ['OSPRY,buy,ten', 'quantity'],
    ['OSPRY,buy,1.5', 'quantity'],
    ['OSPRY,buy,1,limit', 'price'],
    ['OSPRY,buy,1,market,5', 'price'],
    ['OSPRY,buy,1,stop', 'trigger'],
    ['OSPRY,buy,1,,,,tomorrow', 'good for'],
    ['OSPRY,buy,1,stop limit,,50', 'price'],
    ['OSPRY,buy,1,stop limit,50', 'trigger'],
    ['OSPRY,buy,1,stop,,50,fok', 'good for'],
    ['OSPRY,buy,1,,,,,near', 'stop'],
    ['OSPRY,buy,1% risk', 'stop'],
    ['OSPRY,buy,1,,,,,,,bad id!', 'id'],
  ])('%s: the error lies at %s', (row, cell) => {
    const [read] = sheet(row).rows
    expect(Object.keys(read.errors)).toEqual([cell])
    expect(read.order).toBeUndefined()
  })

  it('the same row makes the same id, another row another, alike rows in one file are told apart', () => {
    const id = (...rows: string[]) => sheet(...rows).rows.map((row) => row.order!.clOrdId)
    const [one] = id('OSPRY,buy,1')
    expect(id('ospry, Buy ,1')).toEqual([one])
    expect(id('OSPRY,buy,2')[0]).not.toBe(one)
    const twice = id('OSPRY,buy,1', 'OSPRY,buy,1')
    expect(twice[0]).toBe(one)
    expect(twice[1]).not.toBe(one)
  })

  it('an id given twice is marked before anything is sent; unknown columns are told', () => {
    const { rows } = sheet('OSPRY,buy,1,,,,,,,x-1,', 'OSPRY,buy,2,,,,,,,x-1,')
    expect(sayCell(rows[1].errors.id!)).toBe('the same id as line 2')
    expect(readSheet(readCsv('symbol,side,quantity,colour\nOSPRY,buy,1,red')).ignored).toEqual(['colour'])
    expect(failing(() => readSheet(readCsv('symbol,side\nOSPRY,buy')))).toContain('no column "quantity"')
  })
})
