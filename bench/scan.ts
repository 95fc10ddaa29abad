import { Worker } from 'node:worker_threads'
import { parse } from '../core/rules'
import { makeTable, openTable, sharedMemory } from '../core/market/barTable'
import { scan } from '../core/scan/scan'
import { benchMarket } from './market'
import { type Line, lineOf, timeRuns } from './measure'

const RULE =
  'close > sma(close, 50) and rsi(14) < 70 and close > bollinger(close, 20, 2).lower and volume > 1.2 * sma(volume, 20)'

/** A rule of four indicators over all bars in one thread, against one plain pass over the same columns. */
export function benchScan(): Line[] {
  const [securities, rows] = [1_000, 1_260]
  const set = benchMarket(securities, rows)
  const query = { rule: parse(RULE).tree!, measures: [], every: set.bars[0].every }
  let kept = 0
  const plain = timeRuns(() => {
    for (const { close, volume } of set.bars) {
      let sum = 0
      for (let i = 0; i < close.length; i++) sum += close[i] + volume[i]
      kept += sum
    }
  }, 31)
  const full = timeRuns(() => (kept += scan(set, query).rows.length), 31)
  if (Number.isNaN(kept)) throw new Error('The bench summed nothing')
  const base = lineOf(`plain sum of the same two columns, ${securities} x ${rows}`, plain, 'ms', undefined)
  return [base, lineOf(`scan of four indicators, ${securities} x ${rows}, one thread`, full, 'ms', base)]
}

/** Twelve measures of the kind that a trader has as columns. */
const MEASURES = [
  ...['sma(close, 20)', 'sma(close, 50)', 'ema(close, 33)', 'wma(close, 10)', 'roc(close, 63)', 'rsi(14)'],
  ...['atr(14)', 'highest(close, 70)', 'lowest(close, 70)', 'sma(volume, 20)', 'relvolume(20)', 'obv'],
]

/** The large data set: twelve measures over 8,000 securities, its memory, and two workers against one. */
export async function benchLarge(): Promise<Line[]> {
  const [securities, rows] = [8_000, 504]
  globalThis.gc?.()
  const before = process.memoryUsage()
  let made: ReturnType<typeof benchMarket> | undefined = benchMarket(securities, rows)
  const table = makeTable(made, { asOf: '' }, sharedMemory)
  made = undefined
  const set = openTable(table)
  globalThis.gc?.()
  const after = process.memoryUsage()
  const used = (m: NodeJS.MemoryUsage) => m.heapUsed + m.external
  const raw = securities * rows * 5 * 8
  const held = Math.max(table.buffer.byteLength, used(after) - used(before))
  const memory: Line = {
    name: `memory of ${securities} x ${rows}`,
    n: 1,
    median: held / 1e6,
    spread: 0,
    unit: 'MB',
    baseline: 'its five columns',
    ratio: Number((held / raw).toPrecision(4)),
  }
  let kept = 0
  const plain = timeRuns(
    () => {
      for (const { close } of set.bars) {
        let sum = 0
        for (let i = 0; i < close.length; i++) sum += close[i]
        kept += sum
      }
    },
    15,
    3,
  )
  const query = {
    rule: parse('close > 0').tree!,
    measures: MEASURES.map((text) => parse(text).tree!),
    every: set.bars[0].every,
  }
  const full = timeRuns(() => (kept += scan(set, query).rows.length), 9, 2)
  if (Number.isNaN(kept)) throw new Error('The bench summed nothing')
  const base = lineOf(`plain sum of one column, ${securities} x ${rows}`, plain, 'ms', undefined)
  const scanned = lineOf(`scan of 12 measures, ${securities} x ${rows}, one thread`, full, 'ms', base)
  const each: Line = {
    ...scanned,
    name: `${scanned.name}, per measure`,
    median: Number((scanned.median / 12).toPrecision(4)),
    spread: Number((scanned.spread / 12).toPrecision(4)),
    ratio: Number((scanned.ratio / 12).toPrecision(4)),
  }
  return [base, scanned, each, memory, ...(await benchWorkers(table))]
}

/** The same scan by one worker and by two, over one shared table, in pieces of 128 rows. */
async function benchWorkers(table: ReturnType<typeof makeTable>): Promise<Line[]> {
  const workers = [0, 1].map(
    () =>
      new Worker(new URL('./scanWorker.mjs', import.meta.url), { workerData: { table, measures: MEASURES } }),
  )
  const ask = (worker: Worker, rows: [number, number]) =>
    new Promise<void>((done, failed) => {
      worker.once('error', failed)
      worker.once('message', () => {
        worker.off('error', failed)
        done()
      })
      worker.postMessage(rows)
    })
  const n = table.symbols.length
  const run = async (hands: Worker[]) => {
    let next = 0
    await Promise.all(
      hands.map(async (worker) => {
        while (next < n) {
          const from = next
          next = Math.min(n, next + 128)
          await ask(worker, [from, next])
        }
      }),
    )
  }
  const timed = async (hands: Worker[]) => {
    const began = performance.now()
    await run(hands)
    return performance.now() - began
  }
  const [one, two]: number[][] = [[], []]
  await run(workers)
  await run(workers)
  // By turns, so that what else the machine does falls on both alike.
  for (let k = 0; k < 9; k++) {
    one.push(await timed(workers.slice(0, 1)))
    two.push(await timed(workers))
  }
  await Promise.all(workers.map((worker) => worker.terminate()))
  const alone = lineOf('the same scan by one worker', one, 'ms', undefined)
  const pair = lineOf('the same scan by two workers', two, 'ms', alone)
  return [alone, { ...pair, reason: `${(1 / pair.ratio).toFixed(2)} times as fast` }]
}
