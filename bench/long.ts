import { mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type Entry } from '../broker/journal/entries'
import { USUAL_RULES } from '../core/orders/accountRules'
import { type ExecutionReport } from '../core/orders/model'
import { brokerBundle } from '../scripts/bundle.mjs'
import { freePort } from '../tests/process'
import { writeJournal } from './journal'
import { fleeting, load, resting, serving, tokenOf } from './load'
import { type Line, quantile, round } from './measure'

const [PAST, REST] = [100_000, 10_000]
const WINDOWS = 6
const WINDOW_SECONDS = Number(process.env.HERON_LONG_SECONDS ?? 60) / WINDOWS
const STREAMS = 200
const PER_SECOND = 100

const SYMBOLS = ['OSPRY', 'GANET', 'KIPPR', 'HERRG', 'BUOYS', 'CHNDL', 'SUNDG', 'TERNW']

/** A world in which so many orders lie in the past, and so many rest. */
function* past(): Generator<Entry> {
  yield { is: 'account', account: 'PAPER-1', cash: 50_000, rules: USUAL_RULES }
  const at = Date.parse('2026-03-16T10:42:00-03:00')
  yield { is: 'clock', clock: { at, rate: 1, running: true } }
  let seq = 0
  const report = (number: number, execType: 'New' | 'Canceled', tradeDate: string): ExecutionReport => ({
    ...{
      seq: ++seq,
      execId: `E${seq}`,
      orderId: `O${number}`,
      clOrdId: `past-${number}`,
      account: 'PAPER-1',
    },
    ...{ execType, ordStatus: execType, symbol: SYMBOLS[number % SYMBOLS.length], side: 'Buy', orderQty: 1 },
    ...{ ordType: 'Limit', price: 0.05, timeInForce: 'GoodTillCancel', role: 'Entry', avgPx: 0 },
    ...{ cumQty: 0, leavesQty: execType === 'New' ? 1 : 0 },
    ...{ transactTime: `${tradeDate}T10:42:00-03:00`, tradeDate },
  })
  for (let number = 1; number <= PAST + REST; number++) {
    const tradeDate = `2026-03-${String(2 + Math.floor((number * 10) / (PAST + REST + 1))).padStart(2, '0')}`
    yield { is: 'report', account: 'PAPER-1', report: report(number, 'New', tradeDate) }
    if (number <= PAST)
      yield { is: 'report', account: 'PAPER-1', report: report(number, 'Canceled', tradeDate) }
  }
}

const memoryOf = (pid: number): number =>
  Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1]) / 1024

/** How long each report takes from its order to every one of many streams, in milliseconds, and how many came. */
async function streamed(url: string, token: string): Promise<number[]> {
  const headers = { Authorization: `Bearer ${token}` }
  const sent = new Map<string, number>()
  const took: number[] = []
  const abort = new AbortController()
  const follow = async () => {
    const answer = await fetch(`${url}/paper/executions/stream`, { headers, signal: abort.signal })
    // Only ids are looked for: to read all of each would measure this process.
    const decoder = new TextDecoder()
    let rest = ''
    for await (const part of answer.body as unknown as AsyncIterable<Uint8Array>) {
      const lines = (rest + decoder.decode(part, { stream: true })).split('\n')
      rest = lines.pop()!
      for (const line of lines) {
        const at = line.startsWith('data: ') ? line.indexOf('"clOrdId":"streamed-') : -1
        if (at < 0) continue
        const began = sent.get(line.slice(at + 11, line.indexOf('"', at + 11)))
        if (began !== undefined) took.push(performance.now() - began)
      }
    }
  }
  const all = Array.from({ length: STREAMS }, () => follow().catch(() => undefined))
  await new Promise((resolve) => setTimeout(resolve, 1500))
  const body = resting('streamed')
  for (let k = 0; k < 10 * PER_SECOND; k++) {
    const began = performance.now()
    sent.set(`streamed-${k}`, began)
    void fetch(`${url}/paper/orders`, {
      method: 'POST',
      headers: { ...headers, 'Content-Type': 'application/json' },
      body: body(k),
    }).catch(() => undefined)
    await new Promise((resolve) =>
      setTimeout(resolve, Math.max(0, 1000 / PER_SECOND - (performance.now() - began))),
    )
  }
  for (let tries = 0; took.length < STREAMS * 10 * PER_SECOND && tries < 50; tries++)
    await new Promise((resolve) => setTimeout(resolve, 100))
  abort.abort()
  await Promise.all(all)
  if (took.length !== STREAMS * 10 * PER_SECOND)
    throw new Error(`${took.length} reports came through the streams`)
  return took
}

/** A broker with a past, under load for a minute and then with many streams. */
export async function benchLong(): Promise<Line[]> {
  const dataDir = mkdtempSync(join(tmpdir(), 'heron-long-'))
  const port = await freePort()
  const url = `http://127.0.0.1:${port}`
  try {
    mkdirSync(join(dataDir, 'broker'), { recursive: true })
    await writeJournal(join(dataDir, 'broker', 'journal.log'), past())
    const env = { HERON_DATA: dataDir, HERON_BROKER_PORT: `${port}`, HERON_RATE: '0' }
    return await serving([await brokerBundle()], env, `${url}/health`, async (pid) => {
      const token = await tokenOf(url, dataDir)
      const windows = []
      for (let w = 0; w < WINDOWS; w++)
        windows.push(await load(`${url}/paper/orders`, 16, token, fleeting(`long${w}`), WINDOW_SECONDS))
      const memory = memoryOf(pid)
      const took = (await streamed(url, token)).sort((a, b) => a - b)
      const [first, last] = [windows[0], windows.at(-1)!]
      const line = (
        name: string,
        n: number,
        median: number,
        unit: Line['unit'],
        baseline: string,
        than: number,
      ): Line => ({
        ...{ name, n, median: round(median), spread: 0, unit, baseline, ratio: round(median / than) },
      })
      const behind = `${REST} resting and ${PAST} past`
      return [
        line(
          `orders a second behind ${behind}, first of ${WINDOWS} windows`,
          first.n,
          first.rate,
          '/s',
          'itself',
          first.rate,
        ),
        line('the same in the last window', last.n, last.rate, '/s', 'the first', first.rate),
        line('99 of 100 acknowledged within, last window', last.n, last.p99, 'ms', 'the first', first.p99),
        line('memory at the end', 1, memory, 'MB', 'itself', memory),
        line(
          `reports through ${STREAMS} streams, half within`,
          took.length,
          quantile(took, 0.5),
          'ms',
          'itself',
          quantile(took, 0.5),
        ),
        line('the slowest of them', took.length, took.at(-1)!, 'ms', 'half', quantile(took, 0.5)),
      ]
    })
  } finally {
    rmSync(dataDir, { recursive: true, force: true })
  }
}
