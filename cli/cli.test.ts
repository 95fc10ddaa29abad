import { afterAll, beforeAll, describe, expect, it } from '@jest/globals'
import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { INDICATORS } from '@/core/indicators'
import { readCsv } from '@/core/formats/csv'
import { tempDir } from '@/tests/broker'
import { heron as inProcess } from '@/tests/command'
import { run } from '@/tests/process'

let dir: Awaited<ReturnType<typeof tempDir>>
const closes = Array.from(
  { length: 40 },
  (_, i) => Math.round((20 + 3 * Math.sin(i / 4) + i / 10) * 100) / 100,
)
const date = (i: number) => new Date(Date.UTC(2026, 0, 5 + i)).toISOString().slice(0, 10)
const line = (i: number, close: number) =>
  `${date(i)},${close},${close + 1},${close - 1},${close},${1000 + i}`
const file = (xs: number[]) => `Day,Open,High,Low,Close,Volume\n${xs.map((x, i) => line(i, x)).join('\n')}\n`
const path = (name: string) => join(dir.path, name)

beforeAll(async () => {
  dir = await tempDir()
  mkdirSync(path('bars'))
  writeFileSync(path('bars/RISES.csv'), file(closes.map((_, i) => 10 + i)))
  writeFileSync(path('bars/FALLS.csv'), file(closes.map((_, i) => 90 - i)))
  writeFileSync(path('bars/YOUNG.csv'), file([10, 11]))
  writeFileSync(path('waves.csv'), file(closes))
  writeFileSync(
    path('two.csv'),
    `symbol,date,open,high,low,close\nA,2026-01-05,1,1,1,1\nB,2026-01-05,2,2,2,2\nB,bad,2,2,2,2\n`,
  )
  writeFileSync(path('none.csv'), 'a,b\n1,2\n')
})
afterAll(() => dir.remove())

const heron = (args: string[]) => inProcess(...args)

describe('heron indicators', () => {
  it('prints the file’s date column and one column an expression, empty where unknown', async () => {
    const exprs = ['sma(close, 20)', 'bollinger(close, 20, 2).upper', 'rsi(14)']
    const { code, out, err } = await heron([
      'indicators',
      '--bars',
      path('waves.csv'),
      ...exprs.flatMap((e) => ['--expr', e]),
    ])
    expect([code, err]).toEqual([0, ''])
    const { columns, rows } = readCsv(out)
    expect(columns).toEqual(['Day', ...exprs])
    expect(rows.map((r) => r.cells[0])).toEqual(closes.map((_, i) => date(i)))
    const sma = new Float64Array(closes.length)
    INDICATORS.get('sma')!.column([Float64Array.from(closes)], [20], [sma])
    expect(rows.map((r) => (r.cells[1] === '' ? NaN : Number(r.cells[1])))).toEqual([...sma])
    expect(rows[18].cells.slice(1, 3)).toEqual(['', ''])
    // At least ten significant digits: the shortest text that gives the same double.
    expect(rows[25].cells[2].replace(/\D/g, '').length).toBeGreaterThanOrEqual(10)
  })

  it('reads standard input, and keeps the order of the file', async () => {
    const newestFirst = `date,open,high,low,close\n${[3, 2, 1].map((i) => `${date(i)},1,9,1,${i}`).join('\n')}`
    const args = ['indicators', '--bars', '-', '--expr', 'close', '--expr', 'earlier(close, 1 bar)']
    const { out } = await run(process.execPath, ['bin/heron.mjs', ...args], { input: newestFirst })
    expect(out).toBe(`date,close,"earlier(close, 1 bar)"\n${date(3)},3,2\n${date(2)},2,1\n${date(1)},1,\n`)
  })

  it('tells bad lines on standard error and asks which security is meant', async () => {
    const which = await heron(['indicators', '--bars', path('two.csv'), '--expr', 'close'])
    expect([which.code, which.out]).toEqual([2, ''])
    expect(which.err).toContain('Choose one with --symbol')
    const b = await heron(['indicators', '--bars', path('two.csv'), '--symbol', 'b', '--expr', 'close'])
    expect([b.code, b.out]).toEqual([0, 'date,close\n2026-01-05,2\n'])
    expect(b.err).toContain('line 4 left out: "bad" is not a date or time')
  })

  it.each([
    [['--bars', 'nowhere.csv', '--expr', 'close'], 1, 'there is no such file'],
    [['--bars', '.', '--expr', 'close'], 1, 'is a folder'],
    [['--expr', 'close'], 2, '--bars'],
    [['--bars', 'WAVES', '--expr', 'smaa(close, 3)'], 2, 'Did you mean sma?\n  smaa(close, 3)\n  ^^^^'],
    [['--bars', 'WAVES', '--expr', 'close > 3'], 2, 'is a yes/no; a number is needed here'],
    [['--bars', 'NONE', '--expr', 'close'], 1, 'no column for date, open, high, low, close. It has "a", "b"'],
    [['--bars', 'WAVES', '--expr', 'close', '--zone', 'Mars/Base'], 2, 'not a time zone'],
  ])('%j ends with %d', async (args, code, message) => {
    const real = args.map((a) => (a === 'WAVES' ? path('waves.csv') : a === 'NONE' ? path('none.csv') : a))
    const ended = await heron(['indicators', ...real])
    expect([ended.code, ended.out]).toEqual([code, ''])
    expect(ended.err).toContain(message)
  })
})

describe('heron scan', () => {
  it('prints the securities of a folder that meet the rule at their last bar', async () => {
    const { code, out, err } = await heron([
      'scan',
      '--rule',
      'close > sma(close, 10)',
      '--bars',
      path('bars'),
      '--measure',
      'sma(close, 10)',
    ])
    expect(code).toBe(0)
    expect(out).toBe(`symbol,date,close,"sma(close, 10)"\nRISES,${date(39)},49,44.5\n`)
    expect(err).toContain('unknown for 1, mostly for want of bars: YOUNG')
    expect(err).toContain('1 end earlier than the others: YOUNG')
  })

  it('takes files and folders together; nothing found is no error', async () => {
    const { code, out } = await heron([
      'scan',
      '--rule',
      'close > 1000',
      '--bars',
      path('bars'),
      path('waves.csv'),
    ])
    expect([code, out]).toEqual([0, 'symbol,date,close\n'])
  })

  it('a folder without bars, a rule that is a number', async () => {
    mkdirSync(path('empty'), { recursive: true })
    expect((await heron(['scan', '--rule', 'close > 1', '--bars', path('empty')])).err).toContain(
      'no CSV files in this folder',
    )
    expect((await heron(['scan', '--rule', 'close', '--bars', path('bars')])).code).toBe(2)
  })
})

describe('heron breadth', () => {
  it('counts over a folder, and says what it means', async () => {
    const { code, out, err } = await heron([
      'breadth',
      '--bars',
      path('bars'),
      '--look-back',
      '5',
      '--last',
      '2',
    ])
    expect(code).toBe(0)
    // Of RISES, FALLS and YOUNG the last has two bars only, at the beginning.
    expect(out).toBe(
      `date,counted,highs,lows,advancing,declining,above 50 %,above 200 %\n${date(38)},2,1,1,1,1,,\n${date(39)},2,1,1,1,1,,\n`,
    )
    expect(err).toContain('The market leans neither way')
  })

  it('wants whole numbers', async () => {
    expect((await heron(['breadth', '--bars', path('bars'), '--last', 'few'])).code).toBe(2)
  })
})

describe('heron over universes and timeframes', () => {
  it('makes bars into weeks first, complete ones only, and looks only among those asked for', async () => {
    const args = ['scan', '--rule', 'close > 0', '--bars', path('bars'), '--every', '1 week']
    const { code, out, err } = await heron([...args, '--among', 'rises, nosuch'])
    expect([code, out.trim().split('\n').length]).toEqual([0, 2])
    expect(err).toContain('there are no bars of these, left out: nosuch')
    // Forty days from Monday 5 January 2026 end on Friday 13 February: the week of the 9th is complete.
    expect(readCsv(out).rows[0].cells).toEqual(['RISES', '2026-02-09', '49'])
    expect((await heron([...args.slice(0, -1), '7 moons'])).err).toContain('is not a timeframe')
    expect((await heron([...args.slice(0, -1), '5 min'])).err).toContain('is finer')
  })

  it('knows the index, and stands as of a past day', async () => {
    const rule = 'close > beside("index", close) - 10'
    const args = ['scan', '--rule', rule, '--bars', path('bars'), '--index', 'FALLS', '--among', 'RISES']
    expect(readCsv((await heron(args)).out).rows.map((r) => r.cells[0])).toEqual(['RISES'])
    // RISES is 10 + i, FALLS 90 - i: on day 39 they are 49 and 51, on day 20 still 30 and 70.
    const then = await heron([...args, '--as-of', date(20)])
    expect(then.out).toBe('symbol,date,close\n')
    expect((await heron([...args, '--as-of', 'yesterday'])).code).toBe(2)
  })
})

describe('heron hits', () => {
  it('prints every time with what came after, and says what followed', async () => {
    const args = ['hits', '--rule', 'close crosses above 20', '--bars', path('bars'), '--ahead', '1', '5']
    const { code, out, err } = await heron(args)
    expect(code).toBe(0)
    const { columns, rows } = readCsv(out)
    expect(columns).toEqual(['symbol', 'date', 'close', 'after 1 %', 'after 5 %'])
    // RISES is 10 + i: it is 21 on day 11.
    expect(rows.map((r) => r.cells.slice(0, 3))).toEqual([['RISES', date(11), '21']])
    expect(Number(rows[0].cells[3])).toBeCloseTo(100 / 21, 10)
    expect(Number(rows[0].cells[4])).toBeCloseTo(500 / 21, 10)
    expect(err).toContain('it came true once')
    expect((await heron([...args.slice(0, -2), 'few'])).err).toContain('is not a whole number of bars')
  })
})

describe('heron', () => {
  it('--help says what there is, and ends with 0', async () => {
    const { code, out } = await heron(['--help'])
    expect(code).toBe(0)
    for (const word of ['indicators', 'scan', 'Exit code', 'bollinger(close, 20, 2).upper'])
      expect(out).toContain(word)
  })
  it('an unknown command ends with 2', async () => {
    const { code, err } = await heron(['scam'])
    expect(code).toBe(2)
    expect(err).toContain('scam')
  })
})
