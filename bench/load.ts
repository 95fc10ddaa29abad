import { spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { Agent, request } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { brokerBundle } from '../scripts/bundle.mjs'
import { type Line, quantile, round } from './measure'
import { freePort } from '../tests/process'

/** Seconds that each rate is measured over. */
const SECONDS = Number(process.env.HERON_LOAD_SECONDS ?? 10)
const CONNECTIONS = [16, 64]
/** Seconds before, in which both are compiled. */
const WARM = 3

export interface Served {
  rate: number
  p99: number
  n: number
}

/** Sends bodies one after another over so many connections for a while; every answer must be 201. */
export async function load(
  url: string,
  connections: number,
  token: string,
  body: (k: number) => string,
  seconds = SECONDS,
): Promise<Served> {
  const agent = new Agent({ keepAlive: true, maxSockets: connections })
  const times: number[] = []
  const end = performance.now() + seconds * 1000
  let k = 0
  const one = () =>
    new Promise<void>((resolve, reject) => {
      const began = performance.now()
      const sent = body(k++)
      const headers = {
        ...{ Authorization: `Bearer ${token}`, 'Content-Type': 'application/json' },
        'Content-Length': Buffer.byteLength(sent),
      }
      request(url, { method: 'POST', agent, headers }, (answer) => {
        if (answer.statusCode !== 201) reject(new Error(`${url} answered ${answer.statusCode}`))
        answer.resume().on('end', () => {
          times.push(performance.now() - began)
          resolve()
        })
      })
        .on('error', reject)
        .end(sent)
    })
  const sender = async () => {
    while (performance.now() < end) await one()
  }
  await Promise.all(Array.from({ length: connections }, sender))
  agent.destroy()
  times.sort((a, b) => a - b)
  return { rate: times.length / seconds, p99: quantile(times, 0.99), n: times.length }
}

/** A process that serves, until it answers at `ready`; ended however the work ends. */
export async function serving<T>(
  args: string[],
  env: Record<string, string>,
  ready: string,
  work: (pid: number) => Promise<T>,
): Promise<T> {
  const child = spawn(process.execPath, args, { env: { ...process.env, ...env }, stdio: 'ignore' })
  try {
    for (let tries = 0; ; tries++) {
      const up = await fetch(ready).then(
        (answer) => answer.ok,
        () => false,
      )
      if (up) break
      if (tries > 300) throw new Error(`${ready} does not answer`)
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
    return await work(child.pid!)
  } finally {
    const gone = new Promise((resolve) => child.once('exit', resolve))
    child.kill('SIGTERM')
    await gone
  }
}

/** The least that could be done with an order: a bare handler that appends what it was sent, with an fdatasync of its own. */
const BARE = `
  import { open } from 'node:fs/promises'
  import { serve } from '@hono/node-server'
  import { Hono } from 'hono'
  const file = await open(process.env.JOURNAL, 'a')
  const app = new Hono()
  app.get('/health', (c) => c.json({ ok: true }))
  app.post('/paper/orders', async (c) => {
    const order = await c.req.json()
    await file.appendFile(JSON.stringify(order) + ' '.repeat(450) + '\\n')
    await file.datasync()
    return c.json(order, 201)
  })
  serve({ fetch: app.fetch, port: Number(process.env.PORT), hostname: '127.0.0.1' })
`

const SYMBOLS = ['OSPRY', 'GANET', 'KIPPR', 'HERRG', 'BUOYS', 'CHNDL', 'SUNDG', 'TERNW']
const limit = (prefix: string, timeInForce: string) => (k: number) =>
  JSON.stringify({
    ...{ clOrdId: `${prefix}-${k}`, symbol: SYMBOLS[k % SYMBOLS.length], side: 'Buy', orderQty: 1 },
    ...{ ordType: 'Limit', price: 0.05, timeInForce },
  })
/** Orders far below the market, which rest. */
export const resting = (prefix: string) => limit(prefix, 'GoodTillCancel')
/** The same, which end at once: what rests stays as much as it was. */
export const fleeting = (prefix: string) => limit(prefix, 'ImmediateOrCancel')

export async function tokenOf(url: string, dataDir: string): Promise<string> {
  const key = JSON.parse(readFileSync(join(dataDir, 'broker', 'paper-key.json'), 'utf8')) as Record<
    string,
    string
  >
  const answer = await fetch(`${url}/paper/token`, {
    method: 'POST',
    headers: { Authorization: `Basic ${Buffer.from(`${key.keyId}:${key.secret}`).toString('base64')}` },
    body: new URLSearchParams({ grant_type: 'client_credentials' }),
  })
  return ((await answer.json()) as { access_token: string }).access_token
}

/**
 * Orders acknowledged a second, on the disk, over loopback, at 16 and at 64 connections, beside the bare handler in the same
 * run; orders of the broker rest, so that thousands lie in its book by the end.
 */
export async function benchLoad(): Promise<Line[]> {
  const dataDir = mkdtempSync(join(tmpdir(), 'heron-load-'))
  const [port, barePort] = [await freePort(), await freePort()]
  const [url, bareUrl] = [`http://127.0.0.1:${port}`, `http://127.0.0.1:${barePort}`]
  const bareArgs = ['--input-type=module', '-e', BARE]
  const bareEnv = { PORT: `${barePort}`, JOURNAL: join(dataDir, 'bare.log') }
  try {
    const bare = await serving(bareArgs, bareEnv, `${bareUrl}/health`, async () => {
      const out: Served[] = []
      await load(`${bareUrl}/paper/orders`, CONNECTIONS[0], '', resting('warm'), WARM)
      for (const connections of CONNECTIONS)
        out.push(await load(`${bareUrl}/paper/orders`, connections, '', resting(`bare${connections}`)))
      return out
    })
    const env = { HERON_DATA: dataDir, HERON_BROKER_PORT: `${port}`, HERON_RATE: '0' }
    const broker = await serving([await brokerBundle()], env, `${url}/health`, async () => {
      const token = await tokenOf(url, dataDir)
      const out: Served[] = []
      await load(`${url}/paper/orders`, CONNECTIONS[0], token, resting('warm'), WARM)
      for (const connections of CONNECTIONS)
        out.push(await load(`${url}/paper/orders`, connections, token, resting(`o${connections}`)))
      return out
    })
    return CONNECTIONS.flatMap((connections, i) => {
      const name = `${connections} connections`
      const [was, is] = [bare[i], broker[i]]
      const line = (what: string, value: number, than: number, unit: Line['unit'], n: number): Line => ({
        ...{ name: `${what}, ${name}`, n, median: round(value), spread: 0, unit },
        ...{ baseline: `bare handler: ${round(than)} ${unit}`, ratio: round(value / than) },
      })
      return [
        line('orders acknowledged a second', is.rate, was.rate, '/s', is.n),
        line('99 of 100 orders acknowledged within', is.p99, was.p99, 'ms', is.n),
      ]
    })
  } finally {
    rmSync(dataDir, { recursive: true, force: true })
  }
}
