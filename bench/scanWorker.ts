import { parentPort, workerData } from 'node:worker_threads'
import { type BarTable, openTable } from '../core/market/barTable'
import { parse } from '../core/rules'
import { scan } from '../core/scan/scan'

/** One hand of the bench: scans the rows that it is told. */
const { table, measures } = workerData as { table: BarTable; measures: string[] }
const set = openTable(table)
const query = {
  rule: parse('close > 0').tree!,
  measures: measures.map((text) => parse(text).tree!),
  every: set.bars[0].every,
}
parentPort!.on('message', ([from, to]: [number, number]) => {
  const rows = Array.from({ length: to - from }, (_, i) => from + i)
  parentPort!.postMessage(scan(set, query, { rows }).rows.length)
})
