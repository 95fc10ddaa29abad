import { makeTable, sharedMemory } from '@/core/market/barTable'
import { isIntraday } from '@/core/market/timeframe'
import { type Security } from '@/core/market/security'
import { type Part, readsOf } from '@/core/rules'
import { addBreadth, type Breadth, type BreadthCounts, finishBreadth } from '@/core/scan/breadth'
import { addHits, type HitCounts } from '@/core/scan/history'
import { type Pair } from '@/core/scan/pairs'
import { addPart, emptyPart, finishScan, type ScanPart, type ScanResult } from '@/core/scan/scan'
import { db } from '@/store/db'
import { ownBars } from '@/store/own'
import { type About, type On } from '@/workers/scan.protocol'
import { CANCELED, ScanPool } from '@/workers/scanPool'
import { type Broker } from '../link/broker'
import { extrasIn, type Frame, frameName, needsOwnBars, splitFrame, timeframeOf, treesOf } from './frames'
import { upToDate } from './marketData'

/** What a scan runs on: bars of the market, or a set of the trader's own. `version` names the moment. */
export type Source = (
  { is: 'market'; frame: string; version: string } | { is: 'own'; dataId: string; version: string }
) & {
  /** Date of a past day at whose end everything stands, in each security's own zone; none for now. */
  asOf?: string
}

/** What the market's bars are asked of, and who is listed. */
export interface Market {
  broker: Broker
  securities: readonly Security[]
  /** Symbol of the index of each venue. */
  indices: Readonly<Record<string, string>>
}

let pool: ScanPool | undefined
const workers = (): ScanPool => (pool ??= new ScanPool())

/** Tables that the workers hold: name, and the version and row of each symbol. */
interface Given {
  version: string
  rowOf: Map<string, number>
}

const given = new Map<string, Given>()

async function give(
  market: Market,
  source: Source,
  texts: readonly string[],
  signal?: AbortSignal,
): Promise<On> {
  if (source.is === 'own') {
    const name = `own ${source.dataId}`
    if (given.get(name)?.version !== source.version) {
      const set = await ownBars(source.dataId)
      await take(name, makeTable(set, { asOf: '' }, sharedMemory), source.version)
    }
    return { data: name }
  }
  const symbols = market.securities.map((s) => s.symbol)
  const parts = splitFrame(source.frame)
  const frame: Frame = { ...parts, extras: extrasIn(texts) }
  if (source.asOf !== undefined && needsOwnBars(timeframeOf(frame.every), symbols.length)) {
    frame.to = source.asOf
    frame.soFar = false
  }
  const data = frameName(frame)
  // Bars that are on their way come for all who ask, so one who gives up leaves them to come.
  const table = await orGiveUp(
    upToDate({ broker: market.broker, frame, symbols, version: source.version }),
    signal,
  )
  if (given.get(data)?.version !== source.version || kept.get(data) !== table)
    await take(data, table, source.version)
  const takenAt = Date.parse(table.asOf) || undefined
  if (!isIntraday(timeframeOf(frame.every))) return { data, takenAt }
  // Rules on minutes may look at days: on(1 day, …).
  const days = await give(
    market,
    { ...source, frame: '1 day', version: source.version.split(' ').slice(0, 2).join(' ') },
    [],
    signal,
  )
  return { data, beside: days.data, takenAt }
}

/** The same promise, but rejected at once when the signal is aborted. */
function orGiveUp<T>(promise: Promise<T>, signal: AbortSignal | undefined): Promise<T> {
  if (!signal) return promise
  return new Promise((resolve, reject) => {
    const giveUp = () => reject(new Error(CANCELED))
    if (signal.aborted) giveUp()
    signal.addEventListener('abort', giveUp, { once: true })
    promise.then(resolve, reject)
  })
}

const kept = new Map<string, unknown>()

async function take(data: string, table: ReturnType<typeof makeTable>, version: string): Promise<void> {
  // Shared memory that was written in place is there already.
  if (kept.get(data) !== table) await workers().take(data, table)
  kept.set(data, table)
  const rowOf = new Map(table.symbols.map((symbol, i) => [symbol, i]))
  given.set(data, { version, rowOf })
}

let told = ''

/** Tells the workers what rules may ask besides bars: the index of each security, figures, drawings. */
async function tellAbout(market: Market, source: Source, texts: readonly string[]): Promise<void> {
  const { version } = source
  const frame = source.is === 'own' ? '1 day' : source.frame
  const { sources } = readsOf(treesOf(texts), timeframeOf(splitFrame(frame).every))
  const figures = sources.has('figures')
  const drawn = sources.has('drawing')
  const layouts = drawn ? await db.layouts.toArray() : []
  const key = JSON.stringify([
    version.slice(0, 10),
    figures,
    drawn && layouts.map((l) => [l.symbol, l.changedAt]),
    market.securities.length,
  ])
  if (key === told) return
  const about: About = {
    indexOf: Object.fromEntries(market.securities.map((s) => [s.symbol, market.indices[s.venue] ?? ''])),
    reports: figures ? await reportsOf(market) : {},
    drawings: Object.fromEntries(layouts.map((l) => [l.symbol, l.drawings])),
  }
  await workers().tell(about)
  told = key
}

/** Company figures of the market, and over them those that the trader brought. */
async function reportsOf({ broker }: Market): Promise<About['reports']> {
  const out: Record<string, About['reports'][string]> = await broker.reports()
  for (const { symbol, reports } of await db.ownReports.toArray()) out[symbol] = reports
  return out
}

export interface ScanAsk {
  rule: string
  measures: string[]
  among?: readonly string[]
}

/** Rows of the securities that are looked at; those that the data does not hold are passed over. */
function rowsOf(on: On, among: readonly string[] | undefined): number[] | undefined {
  const { rowOf } = given.get(on.data)!
  return among?.flatMap((symbol) => rowOf.get(symbol) ?? [])
}

/** Runs a scan; `absent` are those asked for that the data does not hold. `found` is told of what there is so far as it comes, with how many are done. */
export async function runScan(
  market: Market,
  source: Source,
  ask: ScanAsk,
  found: (soFar: ScanResult, done: number, of: number) => void,
  signal?: AbortSignal,
): Promise<ScanResult & { absent: string[] }> {
  const texts = [ask.rule, ...ask.measures]
  const on = await give(market, source, texts, signal)
  await tellAbout(market, source, texts)
  let all: ScanPart | undefined
  const { rule, measures } = ask
  await workers().run(
    { ask: 'scan', ...on, rule, measures, by: source.asOf },
    (part) => {
      all = addPart(all, part)
    },
    {
      rows: rowsOf(on, ask.among),
      signal,
      progress: (done, of) => all && found(finishScan(all), done, of),
    },
  )
  const { rowOf } = given.get(on.data)!
  const absent = ask.among?.filter((symbol) => !rowOf.has(symbol)) ?? []
  const result = finishScan(all ?? emptyPart([]))
  // Workers answer in no order: rows stand as the universe names them.
  const place = new Map((ask.among ?? [...rowOf.keys()]).map((symbol, i) => [symbol, i]))
  result.rows.sort((a, b) => place.get(a.symbol)! - place.get(b.symbol)!)
  return { ...result, absent }
}

export async function explainOne(
  market: Market,
  source: Source,
  ask: { rule: string; symbol: string },
): Promise<Part | undefined> {
  const on = await give(market, source, [ask.rule])
  await tellAbout(market, source, [ask.rule])
  return workers().explain({ ...on, ...ask, by: source.asOf })
}

/** How everything that is listed, or all of a set of own data, moved together. */
export async function breadthOf(market: Market, source: Source, among?: readonly string[]): Promise<Breadth> {
  const on = await give(market, source, [])
  let all: BreadthCounts | undefined
  await workers().run({ ask: 'breadth', ...on, by: source.asOf }, (part) => (all = addBreadth(all, part)), {
    rows: rowsOf(on, among),
  })
  return finishBreadth(all ?? { rows: new Map() })
}

/** Every time that a rule came true among securities, and what followed over so many bars. */
export async function historyOf(
  market: Market,
  source: Source,
  ask: { rule: string; ahead: number[]; among?: readonly string[] },
  progress: (done: number, of: number) => void,
  signal?: AbortSignal,
): Promise<HitCounts | undefined> {
  const on = await give(market, source, [ask.rule], signal)
  await tellAbout(market, source, [ask.rule])
  let all: HitCounts | undefined
  await workers().run(
    { ask: 'hits', ...on, rule: ask.rule, ahead: ask.ahead, by: source.asOf },
    (part) => (all = addHits(all, part)),
    { rows: rowsOf(on, ask.among), progress, signal },
  )
  return all
}

/** Pairs of a universe that move together at least so closely. */
export async function pairsOf(
  market: Market,
  source: Source,
  ask: { among: readonly string[]; length: number; least: number },
  progress: (done: number, of: number) => void,
  signal?: AbortSignal,
): Promise<Pair[]> {
  const on = await give(market, source, [], signal)
  const rows = rowsOf(on, ask.among)!
  const out: Pair[] = []
  await workers().run(
    { ask: 'pairs', ...on, length: ask.length, least: ask.least, among: rows, by: source.asOf },
    (part) => out.push(...part),
    { rows, progress, signal },
  )
  return out
}
