import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { monitorEventLoopDelay } from 'node:perf_hooks'
import { makeApp } from '../broker/api/app'
import { Tokens } from '../broker/keys/tokens'
import { Worlds } from '../broker/worlds'
import { SCOPES } from '../core/orders/access'
import { routeTable } from '../broker/api/routeTable'
import { type Line, lineOf, quantile } from './measure'

const RUNS = 9

/** Runs of each route while nothing is remembered: a broker of its own for each. */
const COLD = 3

/** Queries that give a route the most work. */
const QUERY: Record<string, string> = {
  '/options': 'underlyingSymbol=OSPRY&securityStatus=Expired&maturityFrom=2021-01-01',
  '/bars': 'every=1%20min&limit=2000&symbols=OSPRY,GANET,HERRG,TERNW,BWALL',
  '/bars/stream': 'symbols=OSPRY',
  '/quotes/stream': 'symbols=OSPRY,GANET',
  '/securities/{symbol}/bars': 'every=1%20min&limit=50000',
  '/securities/{symbol}/ticks': 'from=2026-03-13&limit=10000',
  '/executions': 'limit=10000',
  '/orders': 'which=all&limit=1000',
  '/rates': 'date=2021-03-16',
}

/**
 * How long everyone else waits at the most while the broker makes a long answer: the longest turn of its event loop,
 * against that of a short answer. The first answer of each path is counted too, when nothing is remembered yet.
 */
export async function benchBlock(): Promise<Line[]> {
  const dir = mkdtempSync(join(tmpdir(), 'heron-bench-'))
  const worlds = await Worlds.open({ dataDir: dir, seed: 'estuary', start: '2026-03-16T10:42:00-03:00' })
  try {
    const tokens = await Tokens.open(join(dir, 'token.key'), 900, Date.now)
    const app = makeApp({ worlds, tokens })
    const { key, secret } = await worlds.paper.ring.create({ scopes: ['see-market'], label: 'bench' })
    const { access_token } = (await (
      await app.request('/paper/token', {
        method: 'POST',
        headers: { Authorization: `Basic ${Buffer.from(`${key.keyId}:${secret}`).toString('base64')}` },
        body: new URLSearchParams({ grant_type: 'client_credentials' }),
      })
    ).json()) as { access_token: string }
    const chained = worlds.markets.home.chains.chainOf(
      worlds.markets.find('OSPRY')!,
      worlds.paper.clock.now(),
    )
    const contract = encodeURIComponent(chained[Math.floor(chained.length / 2)].symbol)
    const blocks = async (path: string): Promise<number[]> => {
      const times: number[] = []
      for (let i = 0; i < RUNS; i++) {
        const turns = monitorEventLoopDelay({ resolution: 1 })
        turns.enable()
        const answer = await app.request(path, { headers: { Authorization: `Bearer ${access_token}` } })
        await answer.arrayBuffer()
        // A turn is counted at its end, so the loop must come round once more.
        await new Promise((resolve) => setTimeout(resolve, 5))
        turns.disable()
        if (!answer.ok) throw new Error(`${path} answered ${answer.status}`)
        times.push(turns.max / 1e6)
      }
      return times
    }
    const hundred = worlds.markets.listing.slice(0, 100).map(({ symbol }) => symbol)
    const one = '/paper/securities/OSPRY/bars?every=1%20min'
    const short = lineOf('longest block, 100 bars', await blocks(`${one}&limit=100`), 'ms', undefined)
    const lines = [short]
    for (const [name, path] of [
      ['50,000 bars as JSON', `${one}&limit=50000`],
      ['50,000 bars as CSV', `${one}&limit=50000&format=csv`],
      [
        '100 securities named twice, 2,000 minutes each',
        `/paper/bars?every=1%20min&limit=2000&symbols=${[...hundred, ...hundred].join(',')}`,
      ],
    ])
      lines.push(lineOf(`longest block, ${name}`, await blocks(path), 'ms', short))
    for (const [name, path] of [
      ['a year of days of a contract', `/paper/securities/${contract}/bars?every=1%20day&limit=300`],
      ['minutes of a contract', `/paper/securities/${contract}/bars?every=1%20min&limit=2000`],
    ])
      lines.push(lineOf(`longest block, ${name}`, await blocks(path), 'ms', short))
    return [...lines, ...(await coldRoutes(short))]
  } finally {
    await worlds.close()
    rmSync(dir, { recursive: true, force: true })
  }
}

/** Every read of the route table, each asked of a broker that has answered nothing before. */
async function coldRoutes(short: Line): Promise<Line[]> {
  const all: number[] = []
  const lines: Line[] = []
  const paths = await readsOf()
  for (const path of paths) {
    const times: number[] = []
    for (let run = 0; run < COLD; run++) times.push(await coldBlock(path))
    all.push(...times)
    lines.push(lineOf(`longest block cold, ${path}`, times, 'ms', short))
  }
  const sorted = all.sort((a, b) => a - b)
  const p99 = lineOf('longest block cold, p99 of every route', [quantile(sorted, 0.99)], 'ms', short)
  // Only routes that come near the limit get a line of their own.
  return [...lines.filter(({ median }) => median > 20), { ...p99, n: all.length }]
}

/** Paths of all reads, parameters filled in. */
async function readsOf(): Promise<string[]> {
  const { app, end } = await opened()
  const paths = routeTable(app)
    .filter(({ method, path }) => method === 'GET' && path !== '/problems/{kind}')
    .map(({ path, isApart }) => {
      const filled = path
        .replace('{symbol}', 'OSPRY')
        .replace('{mic}', 'XBKW')
        .replace(/\{\w+\}/g, 'x')
      return `${isApart ? '' : '/paper'}${filled === '/' ? '' : filled}${QUERY[path] ? `?${QUERY[path]}` : ''}`
    })
  await end()
  return paths
}

async function opened() {
  const dir = mkdtempSync(join(tmpdir(), 'heron-bench-'))
  const worlds = await Worlds.open({ dataDir: dir, seed: 'estuary', start: '2026-03-16T10:42:00-03:00' })
  const tokens = await Tokens.open(join(dir, 'token.key'), 900, Date.now)
  const app = makeApp({ worlds, tokens })
  const { key } = await worlds.paper.ring.create({ scopes: [...SCOPES], label: 'bench' })
  const token = await tokens.issue({
    keyId: key.keyId,
    environment: 'paper',
    scopes: key.scopes,
    renewals: 0,
  })
  const end = async () => {
    await worlds.close()
    rmSync(dir, { recursive: true, force: true })
  }
  return { app, token, end }
}

/** The longest turn of the event loop while a broker answers its first question, in milliseconds. */
async function coldBlock(path: string): Promise<number> {
  const { app, token, end } = await opened()
  await new Promise((resolve) => setTimeout(resolve, 5))
  const turns = monitorEventLoopDelay({ resolution: 1 })
  turns.enable()
  const answer = await app.request(path, { headers: { Authorization: `Bearer ${token}` } })
  if (answer.headers.get('Content-Type')?.includes('event-stream')) {
    const reader = answer.body!.getReader()
    // Some streams stay silent until something happens.
    await Promise.race([reader.read(), new Promise((resolve) => setTimeout(resolve, 100))])
    await reader.cancel()
  } else await answer.arrayBuffer()
  await new Promise((resolve) => setTimeout(resolve, 5))
  turns.disable()
  await end()
  return turns.max / 1e6
}
