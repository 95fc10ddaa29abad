import { readFileSync } from 'node:fs'
import { setTimeout as pause } from 'node:timers/promises'
import { type CDPSession } from '@playwright/test'
import * as z from 'zod'
import { Access, baseOf, Broker, follow, keyTokens } from '@/client'
import { withDemo } from './demo'
import { type Line, lineOf } from './measure'

/** Symbols that are watched, and the real seconds that a session takes: each changes its quote some four times a second. */
const WATCHED = 500
const SESSION_TAKES = 5_000

/** Stretches that are measured, and the real milliseconds of each. */
const STRETCHES = 10
const STRETCH = 2_000

const KeyFile = z.object({ keyId: z.string(), secret: z.string() })

/** Counts the quotes that a stream of the same securities is sent. */
function counted(broker: Broker, symbols: readonly string[]): { quotes: number; stop(): void } {
  const count = { quotes: 0, stop: () => undefined as void }
  count.stop = follow(broker, '/quotes/stream?symbols=', {
    event: ({ event, data }) => {
      const told = JSON.parse(data) as { id: string } | unknown[]
      if (event === 'stream' && 'id' in told) void broker.followQuotes(told.id, symbols)
      if (event === 'quotes' && Array.isArray(told)) count.quotes += told.length
    },
    there: () => undefined,
    away: () => undefined,
  })
  return count
}

/** Of each stretch, the percentage for which the page's main thread was at work, and quotes a second. */
async function stretches(session: CDPSession, count: { quotes: number }): Promise<[number[], number[]]> {
  const look = async () => {
    const { metrics } = await session.send('Performance.getMetrics')
    const worked = metrics.find(({ name }) => name === 'TaskDuration')!.value * 1000
    return { worked, quotes: count.quotes, at: performance.now() }
  }
  const [busy, rate]: number[][] = [[], []]
  let before = await look()
  for (let k = 0; k < STRETCHES; k++) {
    await pause(STRETCH)
    const now = await look()
    busy.push((100 * (now.worked - before.worked)) / (now.at - before.at))
    rate.push((1000 * (now.quotes - before.quotes)) / (now.at - before.at))
    before = now
  }
  return [busy, rate]
}

/**
 * How busy the page is with a sheet of 500 orders, each priced and checked at every quote of its security, while some
 * 2,000 quotes a second come; beside it, the same page while the market stands still. Needs `npm run build` to have
 * been run.
 */
export async function benchQuotes(): Promise<Line[]> {
  return withDemo({ HERON_SECURITIES: '800' }, async ({ url, brokerUrl, browser, keyFile }) => {
    const { keyId, secret } = KeyFile.parse(JSON.parse(readFileSync(keyFile, 'utf8')))
    const broker = new Broker(new Access(brokerUrl, keyTokens(baseOf(brokerUrl), keyId, secret)))
    const symbols = (await broker.securities()).slice(0, WATCHED).map((security) => security.symbol)
    const rows = symbols.map((symbol) => `${symbol},buy,1,market`)
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
    await page.goto(`${url}/sheet`)
    await broker.setClock({ running: false })
    await page.getByLabel('Choose a file').setInputFiles({
      ...{ name: 'orders.csv', mimeType: 'text/csv' },
      buffer: Buffer.from(['Ticker,Side,Qty,Type', ...rows].join('\n')),
    })
    await page.getByRole('cell', { name: 'ready' }).first().waitFor()
    const session = await page.context().newCDPSession(page)
    await session.send('Performance.enable')
    const count = counted(broker, symbols)
    try {
      await pause(STRETCH)
      const still = lineOf(
        `page busy, ${WATCHED} watched, the market stands still`,
        (await stretches(session, count))[0],
        '%',
        undefined,
      )
      await broker.setClock({ running: true, sessionTakes: SESSION_TAKES })
      await pause(STRETCH)
      const [busy, rate] = await stretches(session, count)
      const quotes = Math.round(lineOf('', rate, '%', undefined).median)
      return [still, lineOf(`page busy, ${WATCHED} watched at ${quotes} quotes a second`, busy, '%', still)]
    } finally {
      count.stop()
    }
  })
}
