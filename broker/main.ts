import { mkdir, open, readFile, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { createServer } from 'node:http'
import { setFlagsFromString } from 'node:v8'
import { getRequestListener } from '@hono/node-server'
import { makeApp } from './api/app'
import { Pace } from './api/pace'
import { refuseRaw, refuseUnread } from './api/rawRefusal'
import { gently } from './gently'
import { JournalError } from './journal/problem'
import { isFull } from './journal/reserve'
import { SCOPES } from '@/core/orders/access'
import { Tokens } from './keys/tokens'
import { type World } from './world'
import { Worlds } from './worlds'

// Left alone, memory grows to three times what is in use before it is looked through.
setFlagsFromString('--heap-growing-percent=50')

const TICK = 200
const TOKEN_LIFETIME = 900
/** Requests a second that a key may ask in the long run; HERON_RATE sets another, 0 none. */
const RATE = 250

/** Key and secret that the demo made, for its own interface and for scripts; readable by its owner only. */
export const DEMO_KEY_FILE = 'paper-key.json'

const say = (text: string) => process.stdout.write(`broker: ${text}\n`)

/** One broker at a time writes to a data folder; the file holds the process id of the one that does. */
async function lock(path: string): Promise<void> {
  try {
    const file = await open(path, 'wx')
    await file.writeFile(String(process.pid)).finally(() => file.close())
  } catch (error) {
    if (isFull(error)) return
    const owner = Number(await readFile(path, 'utf8').catch(() => '0'))
    if (owner > 0 && owner !== process.pid && isAlive(owner)) {
      throw new JournalError(
        `Another broker (process ${owner}) uses this data folder.`,
        'Stop it, or give this one a folder of its own with HERON_DATA.',
      )
    }
    await writeFile(path, String(process.pid)).catch((error: unknown) => {
      if (!isFull(error)) throw error
    })
  }
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0)
    return true
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM'
  }
}

/** A whole number from the environment; says what is wrong with one that is none. */
function wholeNumber(name: string, preset: number, max: number): number {
  const text = process.env[name]
  if (text === undefined || text === '') return preset
  const value = Number(text)
  if (Number.isInteger(value) && value >= 0 && value <= max) return value
  throw new RangeError(`${name} "${text}" is not a whole number from 0 to ${max.toLocaleString('en-US')}`)
}

/** Makes the first key of an environment, with all scopes, where the one in the file is not known or lacks some. */
async function firstKey(world: World, path: string): Promise<void> {
  const kept = await readFile(path, 'utf8').then(
    (text) => JSON.parse(text) as { keyId: string },
    () => undefined,
  )
  const known = kept && world.keys.get(kept.keyId)
  // A key that an older build made may do less than the application needs.
  if (known && SCOPES.every((scope) => known.scopes.includes(scope))) return
  const { key, secret } = await world.ring.create({ scopes: [...SCOPES], label: 'made at the first start' })
  const { keyId, environment } = key
  await writeFile(path, `${JSON.stringify({ keyId, secret, environment }, null, 2)}\n`, { mode: 0o600 })
}

async function main(): Promise<void> {
  const dataDir = join(process.env.HERON_DATA ?? '.heron', 'broker')
  const port = Number(process.env.HERON_BROKER_PORT ?? 4312)
  await mkdir(dataDir, { recursive: true })
  const lockPath = join(dataDir, 'broker.lock')
  await lock(lockPath)
  const worlds = await Worlds.open({
    dataDir,
    seed: process.env.HERON_SEED ?? 'estuary',
    start: process.env.HERON_START ?? '2026-03-16T10:42:00-03:00',
    securities: wholeNumber('HERON_SECURITIES', 0, 50_000),
    salvage: process.env.HERON_SALVAGE === '1',
    say,
  })
  for (const [world, file] of [
    [worlds.paper, DEMO_KEY_FILE],
    [worlds.live, 'live-key.json'],
  ] as const)
    await firstKey(world, join(dataDir, file)).catch((error: unknown) => {
      // The broker can still answer what is on the disk.
      if (!(error instanceof JournalError || isFull(error))) throw error
      say(`no key was made for ${world.name}: ${(error as Error).message}`)
    })
  const lifetime = Number(process.env.HERON_TOKEN_SECONDS ?? TOKEN_LIFETIME)
  const tokens = await Tokens.open(join(dataDir, 'token.key'), lifetime, Date.now)
  const perSecond = wholeNumber('HERON_RATE', RATE, 1_000_000)
  const pace = perSecond > 0 ? new Pace({ perSecond, atOnce: 4 * perSecond }) : undefined
  const app = makeApp({ worlds, tokens, ...(pace ? { pace } : {}) })
  const hostname = process.env.HERON_HOST ?? '127.0.0.1'
  const listener = getRequestListener(app.fetch, { hostname, errorHandler: (error) => refuseUnread(error) })
  const server = createServer(listener)
  server.on('clientError', refuseRaw)
  server.listen(port, hostname, () => {
    say(`the stand-in market and broker answer at http://127.0.0.1:${port} (${worlds.paper.timeText()})`)
  })
  server.on('error', (error: NodeJS.ErrnoException) => {
    const busy = error.code === 'EADDRINUSE'
    process.stderr.write(
      busy
        ? `broker: port ${port} is in use. Choose another with HERON_BROKER_PORT.\n`
        : `broker: ${error.message}\n`,
    )
    process.exit(busy ? 98 : 1)
  })
  void gently(worlds.markets.warm(worlds.paper.clock.now()))
  let unwell = ''
  const tick = async () => {
    const problem = await worlds.tick().then(
      () => '',
      (error: Error) => error.message,
    )
    if (problem !== unwell)
      process.stderr.write(problem ? `broker: ${problem}\n` : 'broker: the journal can be written again\n')
    unwell = problem
    setTimeout(tick, TICK)
  }
  void tick()
  const stop = async () => {
    await worlds.close()
    await rm(lockPath, { force: true })
    process.exit(0)
  }
  process.on('SIGTERM', stop)
  process.on('SIGINT', stop)
}

main().catch((error: Error) => {
  process.stderr.write(`broker: ${error.message}${error instanceof JournalError ? ` ${error.mend}` : ''}\n`)
  process.exit(1)
})
