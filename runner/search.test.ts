import { readFileSync } from 'node:fs'
import { expect, it } from '@jest/globals'
import { clientOf, processFor } from '@/tests/broker'
import { type BrokerProcess, run } from '@/tests/process'
import { readCsv, writeCsv } from '@/core/formats/csv'
import { decodeBars } from '@/core/formats/barsBinary'
import { openTable } from '@/core/market/barTable'
import { dayNumber } from '@/core/market/figures'
import { Found } from '@/core/plans/found'
import { Plan, type Side } from '@/core/plans/document'
import { aboveAverage } from '@/tests/aboveAverage'
import { universeOf } from './universe'
import { knownAccount } from './connect'
import { searchNow } from './search'
import { standsNow } from './standsNow'

let process: BrokerProcess
processFor((started) => (process = started))

const BARE = aboveAverage({})
const [SIDE] = BARE.sides

const found = (part: object) =>
  Found.parse({ name: 'some', rule: 'close > 0', every: '1 day', first: 500, ...part })

it('a search reads all that a scan reads: quotes, growing bars, company figures, the index, other lengths', async () => {
  await process.ask('POST', '/market-time', { running: false })
  const broker = clientOf(process)
  const { shared, reports, now } = await knownAccount(broker, [])
  const { listed } = shared
  const search = (part: object, carried = {}) =>
    searchNow(broker, found(part), { listed, reports, plan: carried })
  const all = Object.values(listed).filter(({ security }) => security.orderable && !security.option)
  const everyone = all.map(({ security }) => security.symbol).sort()
  const days = openTable(decodeBars(await broker.bars('1 day', { limit: 2, prices: 'over-splits' })))
  const close = new Map(days.symbols.map((symbol, i) => [symbol, days.bars[i].close.at(-1)!]))
  const last = new Map((await broker.quotes(everyone)).map((one) => [one.symbol, one.last]))
  const up = everyone.filter((symbol) => last.get(symbol)! > close.get(symbol)!)
  expect(up.length).toBeGreaterThan(0)
  expect((await search({ rule: 'last > close' })).symbols).toEqual(up)
  // The close of a bar that grows is the last price.
  expect((await search({ rule: 'last = close', soFar: true })).symbols).toEqual(everyone)
  const told = await broker.reports()
  const today = dayNumber(new Date(now - 4 * 3_600_000).toISOString().slice(0, 10))
  const soon = everyone.filter((symbol) => {
    const { nextEarnings = '' } = (told[symbol] ?? []).findLast((one) => one.nextEarnings !== undefined) ?? {}
    const left = dayNumber(nextEarnings) - today
    return left >= 0 && left <= 20
  })
  const by = { rule: 'days to earnings <= 20', soFar: true }
  expect((await search(by)).symbols).toEqual(soon)
  // What the trader brought takes the place of the broker's.
  const own = { figures: Object.fromEntries(soon.map((symbol) => [symbol, [{ known: 0, eps: 1 }]])) }
  expect((await search(by, own)).symbols).toEqual([])
  const beside = await search({ rule: 'close > 0 and beside("index", close) > 0' })
  expect([beside.symbols, beside.unknown]).toEqual([everyone, 0])
  // Bars that the plan carries are read as of the same moment; a name that nobody has is told.
  const mood = { rule: 'close > 0 and beside("MOOD", close) > 20', in: { list: ['OSPRY'] } }
  const bars = Plan.shape.bars.parse({
    MOOD: {
      ...{ every: '1 day', zone: 'UTC', time: ['2026-02-26', '2026-03-12'] },
      ...{ open: [10, 30], high: [10, 30], low: [10, 30], close: [10, 30] },
    },
  })
  expect((await search(mood, { bars })).symbols).toEqual(['OSPRY'])
  expect((await search({ ...mood, asOf: '2026-02-27' }, { bars })).symbols).toEqual([])
  await expect(search(mood)).rejects.toThrow('The broker lists no MOOD, which its rule text asks about')
  // An index is looked at whole.
  const [{ security: first }] = all.filter(({ security }) => security.indices.length > 0)
  const among = (index: string) =>
    universeOf(broker, { ...BARE, sides: [{ ...SIDE, among: { index } }] }, 0, shared, reports)
  const [index] = first.indices
  expect((await among(index)).symbols).toEqual((await search({ in: { index } })).symbols)
  await expect(among('Nowhere 9')).rejects.toThrow('lists no members of Nowhere 9')
  // At the end of a past day it stands as of that day; what is quoted now was not known then.
  const before = openTable(
    decodeBars(await broker.bars('1 day', { limit: 1, to: '2026-02-27', prices: 'over-splits' })),
  )
  const closeThen = before.bars[before.symbols.indexOf('OSPRY')].close[0]
  const then = await search({ rule: `close = ${closeThen}`, asOf: '2026-02-27', in: { list: ['OSPRY'] } })
  expect(then.symbols).toEqual(['OSPRY'])
  expect(await search({ rule: 'last > 0', asOf: '2026-02-27' })).toMatchObject({
    symbols: [],
    unknown: everyone.length,
  })
  expect(() => found({ asOf: '2026-02-27', soFar: true })).toThrow('no bar grows')
  // Fewer minutes than the sessions that are looked back over are brought: days are brought beside them.
  const coarser = {
    rule: 'on(1 day, sma(close, 35)) > 0',
    every: '15 min',
    in: { list: ['OSPRY', 'NOSUCH'] },
  }
  expect(await search(coarser)).toMatchObject({ symbols: ['OSPRY'], looked: 1 })
})

it('worked examples of each kind may be armed; the one of four contracts by an account of another level', async () => {
  const broker = clientOf(process)
  // One of each way to look: of a search, of pairs, of legs, of events, of what is drawn.
  for (const id of [
    'each-morning',
    'two-of-a-kind',
    'between-the-shoals',
    'first-announcement',
    'at-the-shelf',
  ]) {
    const file = `${id}.json`
    const plan = Plan.parse(JSON.parse(readFileSync(`plans/${file}`, 'utf8')))
    const { wrong, unasked } = await standsNow(broker, plan)
    const level = file === 'between-the-shoals.json' ? [expect.stringContaining('needs option level 3')] : []
    expect([file, wrong, unasked]).toEqual([file, level, false])
  }
})

it('a condition that held on no bar of the past, or on every one, is told before the plan is armed', async () => {
  const broker = clientOf(process)
  const odd = async (rule: string) => {
    const { odd: said } = await standsNow(broker, aboveAverage({ if: { rule, every: '15 min' } }))
    return said
  }
  expect(await odd('close > 100000')).toEqual([
    expect.stringMatching(/^Its condition held on the last 1560 bars of 15 min of none of them/),
  ])
  expect(await odd('close > 0')).toEqual([expect.stringContaining('of all of them without a break')])
  expect(await odd('close > sma(close, 10)')).toEqual([])
})

it('what the broker does not list keeps a plan from being armed; in a list that is searched it is said', async () => {
  const broker = clientOf(process)
  const [side] = BARE.sides
  const unlisted: Side['among'][] = [{ list: ['OSPRY', 'NOSUCH'] }, { pairs: [['OSPRY', 'NOSUCH']] }]
  for (const among of unlisted) {
    const { wrong, unasked } = await standsNow(broker, { ...BARE, sides: [{ ...side, among }] })
    expect([wrong, unasked]).toEqual([['These cannot be ordered: NOSUCH. Take them out of Among.'], true])
  }
  const found: Extract<Side['among'], { found: unknown }>['found'] = {
    ...{ name: 'Any', rule: 'close > 0', every: '1 day', soFar: false, lowest: false },
    ...{ in: { list: ['OSPRY', 'NOSUCH'] }, again: 'Session' },
  }
  const { wrong, odd } = await standsNow(broker, { ...BARE, sides: [{ ...side, among: { found } }] })
  expect(wrong).toEqual([])
  expect(odd).toContain('Its search looks through a list with NOSUCH, which the broker does not list.')
})

it('without a file the commands ask the broker: as a search of a plan finds, and as over bars that were fetched', async () => {
  await process.ask('POST', '/market-time', { running: false })
  const { keyFile, url } = process
  const command = async (args: string[], input?: string) => {
    const key = input === undefined ? ['--broker', url, '--key-file', keyFile] : []
    const { code, out, err } = await run(globalThis.process.execPath, ['bin/heron.mjs', ...args, ...key], {
      input,
    })
    if (code !== 0) throw new Error(err)
    return readCsv(out)
  }
  const rule = 'rsi(14) < 55'
  const broker = clientOf(process)
  const { shared, reports } = await knownAccount(broker, [])
  const terms = { listed: shared.listed, reports, plan: {} }
  const orderable = Object.values(shared.listed).filter(({ security }) => security.orderable)
  const names = orderable.map(({ security }) => security.symbol).sort()
  const list = [...names.slice(0, 20), 'OSPRY', 'GANET', 'HERRG']
  const some = ['--every', '1 hour', '--among', list.join(',')]
  const scanned = await command(['scan', '--rule', rule, '--measure', 'last', ...some])
  const searched = await searchNow(broker, found({ rule, every: '1 hour', in: { list } }), terms)
  const symbols = scanned.rows.map(({ cells }) => cells[0])
  expect(symbols.length).toBeGreaterThan(0)
  expect([...symbols].sort()).toEqual(searched.symbols)
  const quoted = new Map((await broker.quotes(symbols)).map((one) => [one.symbol, String(one.last)]))
  expect(scanned.rows.map(({ cells }) => cells[3])).toEqual(symbols.map((symbol) => quoted.get(symbol)))

  const among = ['--among', 'OSPRY,GANET,HERRG']
  const fetched = await command([
    'bars',
    '--every',
    '5 min',
    '--from',
    '2026-03-12',
    '--to',
    '2026-03-13',
    ...among,
  ])
  const csv = writeCsv(
    fetched.columns,
    fetched.rows.map(({ cells }) => cells),
  )
  // Two sessions of 78 bars.
  expect(fetched.rows).toHaveLength(3 * 2 * 78)
  const over = ['hits', '--rule', 'close crosses above sma(close, 20)', '--ahead', '5']
  const ofFile = await command([...over, '--bars', '-'], csv)
  const ofMarket = await command([...over, '--every', '5 min', ...among])
  const seen = new Set(ofMarket.rows.map(({ cells }) => cells.join()))
  expect(ofFile.rows.length).toBeGreaterThan(5)
  // What came true near the end of the file has fewer bars after it.
  for (const { cells } of ofFile.rows)
    if (cells[3] !== '' && cells[1] >= '2026-03-12T12') expect(seen).toContain(cells.join())
  const average = ['--expr', 'sma(close, 20)', '--symbol', 'ospry', '--every', '5 min']
  const told = await command(['indicators', ...average, '--last', '1'])
  const { bars } = openTable(decodeBars(await broker.bars('5 min', { symbols: ['OSPRY'], limit: 20 })))
  expect(Number(told.rows[0].cells[1])).toBeCloseTo(bars[0].close.reduce((sum, x) => sum + x, 0) / 20, 8)
  await expect(command(['scan', '--rule', rule, '--columns', 'date=1'])).rejects.toThrow(
    '--columns is for files',
  )
  await expect(command(['scan', '--rule', rule, '--bars', '-', '--last', '9'], csv)).rejects.toThrow(
    "--last is for the broker's market",
  )
})
