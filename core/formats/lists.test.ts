import { describe, expect, it } from '@jest/globals'
import { readCsv } from './csv'
import { sayLine } from './say'
import { readReports } from './reportsCsv'
import { readSymbols } from './symbolList'

describe('lists of symbols', () => {
  const known = new Set(['OSPRY', 'GANET', 'HERRG'])
  it('come from words between anything, each once, in their order', () => {
    const read = readSymbols('ospry, GANET;nosuch\nOSPRY herrg', known)
    expect(read).toEqual({ symbols: ['OSPRY', 'GANET', 'HERRG'], unknown: [{ line: 1, word: 'nosuch' }] })
  })
  it('come from the symbol column of a file', () => {
    expect(readSymbols('name,symbol\n"Osprey, Lantern",OSPRY\nNo,NONE\n', known)).toEqual({
      symbols: ['OSPRY'],
      unknown: [{ line: 3, word: 'NONE' }],
    })
  })
  it('of fifty thousand are read whole', () => {
    const text = Array.from({ length: 50_000 }, (_, i) => `S${i}`).join('\n')
    expect(readSymbols(text).symbols).toHaveLength(50_000)
  })
})

describe('company figures from CSV', () => {
  const read = (text: string) => readReports(readCsv(text), () => 'America/Halifax')
  it('keeps good lines by symbol in the order of time, and tells bad ones', () => {
    const { reports, bad, good } = read(
      [
        'Ticker,Date,Shares Outstanding,EPS,EPS Growth,Next Earnings,Confirmed,Before Open',
        'ospry,2026-03-02,"1,200,000",2.40,12.5%,2026-04-20,estimated,after close',
        'OSPRY,2025-12-01,1000000,2.1,,2026-03-02,yes,yes',
        'GANET,soon,1,1,,,,',
        'GANET,2026-03-02,many,1,,,,',
        'GANET,2026-03-02,1,1,,,perhaps,',
      ].join('\n'),
    )
    expect(good).toBe(2)
    expect(reports.get('OSPRY')).toEqual([
      {
        known: Date.parse('2025-12-01T04:00:00Z'),
        ...{ sharesOutstanding: 1_000_000, eps: 2.1, nextEarnings: '2026-03-02' },
        ...{ confirmed: true, beforeOpen: true },
      },
      {
        known: Date.parse('2026-03-02T04:00:00Z'),
        ...{ sharesOutstanding: 1_200_000, eps: 2.4, epsGrowth: 12.5, nextEarnings: '2026-04-20' },
        ...{ confirmed: false, beforeOpen: false },
      },
    ])
    expect(bad.map((b) => [b.line, sayLine(b.problem)])).toEqual([
      [4, '"soon" is not a date; write it as 2026-03-02'],
      [5, 'shares outstanding "many" is not a number'],
      [6, 'confirmed "perhaps" is neither yes nor no'],
    ])
  })
  it.each([
    ['120M', 120_000_000],
    ['1.5 k', 1_500],
    ['2b', 2_000_000_000],
    ['"1,200"', 1_200],
  ])('%s shares are %d', (text, shares) => {
    const { reports, bad } = read(`symbol,date,float\nTARN,2026-03-02,${text}\n`)
    expect(bad).toEqual([])
    expect(reports.get('TARN')![0].float).toBe(shares)
  })
  it.each(['M', '1.2.3M', '12x', '-5M'])('%s shares are none', (text) => {
    expect(read(`symbol,date,float\nTARN,2026-03-02,${text}\n`).bad[0].line).toBe(2)
  })
  it('says what a file lacks', () => {
    expect(() => read('date,eps\n2026-01-01,1\n')).toThrow('columns_missing')
    expect(() => read('symbol,date,colour\nA,2026-01-01,red\n')).toThrow('no_figures')
  })
})
