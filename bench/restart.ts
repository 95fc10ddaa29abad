import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type Entry } from '../broker/journal/entries'
import { World } from '../broker/world'
import { USUAL_RULES } from '../core/orders/accountRules'
import { type ExecutionReport } from '../core/orders/model'
import { writeJournal } from './journal'
import { type Line, round } from './measure'

/** Records that the journal holds. */
const RECORDS = Number(process.env.HERON_RECORDS ?? 1_000_000)
const PER_DAY = 20_000

/** Sessions of one spring, again and again one after the other. */
const DAY = 86_400_000
const dateOf = (k: number) =>
  new Date(Date.parse('2022-01-03T00:00:00Z') + k * DAY).toISOString().slice(0, 10)

/** Reports of orders that came and were canceled, each in two records. */
function* entries(): Generator<Entry> {
  yield { is: 'account', account: 'PAPER-1', cash: 50_000, rules: USUAL_RULES }
  yield { is: 'clock', clock: { at: Date.parse('2022-01-03T10:00:00-04:00'), rate: 1, running: false } }
  for (let seq = 1; seq <= RECORDS - 2; seq++) {
    const number = Math.ceil(seq / 2)
    const isNew = seq % 2 === 1
    const tradeDate = dateOf(Math.floor(seq / PER_DAY))
    const report: ExecutionReport = {
      ...{ seq, execId: `E${seq}`, orderId: `O${number}`, clOrdId: `load-${number}`, account: 'PAPER-1' },
      ...{ execType: isNew ? 'New' : 'Canceled', ordStatus: isNew ? 'New' : 'Canceled' },
      ...{ symbol: 'OSPRY', side: 'Buy', orderQty: 1, ordType: 'Limit', price: 0.05 },
      ...{ timeInForce: 'GoodTillCancel', role: 'Entry', cumQty: 0, leavesQty: isNew ? 1 : 0, avgPx: 0 },
      ...{ transactTime: `${tradeDate}T10:42:00-04:00`, tradeDate },
    }
    yield { is: 'report', account: 'PAPER-1', report }
  }
}

/** How long a start takes behind a long journal: read from its beginning, and from a snapshot. */
export async function benchRestart(): Promise<Line[]> {
  const dataDir = mkdtempSync(join(tmpdir(), 'heron-bench-'))
  try {
    await writeJournal(join(dataDir, 'journal.log'), entries())
    const start = async () => {
      const began = performance.now()
      const world = await World.open({
        dataDir,
        seed: 'bench',
        start: '2022-01-03T10:00:00-04:00',
        firstDate: '2021-03-15',
      })
      const took = performance.now() - began
      if (world.main.reports.length !== RECORDS - 2) throw new Error('not all of the journal was read')
      return { world, took }
    }
    const whole = await start()
    await whole.world.close()
    globalThis.gc?.()
    const again = await start()
    globalThis.gc?.()
    const { heapUsed, external } = process.memoryUsage()
    const memory = (heapUsed + external) / 1e6
    await again.world.close()
    const line = (name: string, median: number, unit: Line['unit'], ratio: number): Line => ({
      ...{ name, n: RECORDS, median: round(median), spread: 0, unit, baseline: 'start without a snapshot' },
      ratio: round(ratio),
    })
    return [
      line('start without a snapshot', whole.took, 'ms', 1),
      line('start with a snapshot', again.took, 'ms', again.took / whole.took),
      line('memory held after it', memory, 'MB', 1),
    ]
  } finally {
    rmSync(dataDir, { recursive: true, force: true })
  }
}
