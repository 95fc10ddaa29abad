import { afterAll, afterEach, beforeAll, beforeEach, expect } from '@jest/globals'
import { mkdtemp, rm } from 'node:fs/promises'
import { readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Access, baseOf, Broker, keyTokens } from '@/client'
import { problemOf } from '@/client/problem'
import { makeApp } from '@/broker/api/app'
import { type KeyAsked } from '@/broker/keys/keys'
import { Tokens } from '@/broker/keys/tokens'
import { World, type WorldOptions } from '@/broker/world'
import { Worlds } from '@/broker/worlds'
import { BrokerProcess, freePort } from './process'
import { type Environment, SCOPES } from '@/core/orders/access'
import { type ExecutionReport, type NewOrder, type Order } from '@/core/orders/model'

/** A folder of its own, and how to take it away. */
export async function tempDir(): Promise<{ path: string; remove(): Promise<void> }> {
  const path = await mkdtemp(join(tmpdir(), 'heron-'))
  return { path, remove: () => rm(path, { recursive: true, force: true }) }
}

/** A clock on the wall that moves only when told to. */
export class Wall {
  at = Date.parse('2026-03-16T13:42:00Z')
  now = (): number => this.at
  pass(seconds: number): void {
    this.at += seconds * 1000
  }
}

/** A short market: two months of history, so that it opens at once. */
const short = (dataDir: string, wall: Wall, options: Partial<WorldOptions>): WorldOptions => ({
  dataDir,
  seed: 'test',
  start: '2026-03-16T10:42:00-03:00',
  firstDate: '2026-01-12',
  real: wall.now,
  ...options,
})

/** The paper world alone. */
export const openWorld = (dataDir: string, wall: Wall, options: Partial<WorldOptions> = {}): Promise<World> =>
  World.open(short(dataDir, wall, options))

/** Every world of a broker. */
export const openWorlds = (
  dataDir: string,
  wall: Wall,
  options: Partial<WorldOptions> = {},
): Promise<Worlds> => Worlds.open(short(dataDir, wall, options))

type Json = Record<string, unknown>

/** The broker without a port, and a person at its API. */
export class Desk {
  token = ''
  app: ReturnType<typeof makeApp>

  constructor(
    public worlds: Worlds,
    readonly tokens: Tokens,
  ) {
    this.app = makeApp({ worlds, tokens })
  }

  /** Restarts the broker: it comes back from what is on the disk; the person asks with a new key. */
  async reopen(dataDir: string, wall: Wall): Promise<void> {
    await this.worlds.close()
    this.worlds = await openWorlds(dataDir, wall)
    this.app = makeApp({ worlds: this.worlds, tokens: this.tokens })
    const { keyId, secret } = await this.newKey()
    this.token = await this.askToken(keyId, secret)
  }

  get world(): World {
    return this.worlds.paper
  }

  static async open(worlds: Worlds, dataDir: string, wall: Wall): Promise<Desk> {
    const desk = new Desk(worlds, await Tokens.open(join(dataDir, 'token.key'), 900, wall.now))
    const { keyId, secret } = await desk.newKey()
    desk.token = await desk.askToken(keyId, secret)
    return desk
  }

  async newKey(
    scopes: KeyAsked['scopes'] = [...SCOPES],
    environment: Environment = 'paper',
    more: Partial<KeyAsked> = {},
  ) {
    const { key, secret } = await this.worlds[environment].ring.create({ scopes, label: 'test', ...more })
    return { keyId: key.keyId, secret }
  }

  exchange(form: Record<string, string>, header: Record<string, string> = {}, world = 'paper') {
    return this.app.request(`/${world}/token`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/x-www-form-urlencoded', ...header },
      body: new URLSearchParams({ grant_type: 'client_credentials', ...form }).toString(),
    })
  }

  async askToken(keyId: string, secret: string, world = 'paper'): Promise<string> {
    const answer = await this.exchange({ client_id: keyId, client_secret: secret }, {}, world)
    return ((await answer.json()) as { access_token: string }).access_token
  }

  async call(method: string, path: string, body?: unknown, token = this.token): Promise<Response> {
    return this.app.request(path, {
      method,
      headers: {
        ...(token ? { Authorization: `Bearer ${token}` } : {}),
        ...(body === undefined ? {} : { 'Content-Type': 'application/json' }),
      },
      ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
    })
  }

  get = async <T = Json>(path: string): Promise<T> => (await (await this.call('GET', path)).json()) as T

  send = (order: Partial<NewOrder> & Json): Promise<Response> =>
    this.call('POST', '/paper/orders', { side: 'Buy', ordType: 'Market', orderQty: 100, ...order })

  order = (clOrdId: string): Promise<Order> => this.get<Order>(`/paper/orders/${encodeURIComponent(clOrdId)}`)

  /** Lets new orders meet the book, and the market run on for so many seconds. */
  async run(wall: Wall, seconds = 0): Promise<void> {
    wall.pass(seconds)
    await this.worlds.tick()
    await this.worlds.tick()
  }
}

interface Problem {
  type: string
  title: string
  status: number
  detail: string
  mend: string
  [more: string]: unknown
}

/** An answer that must be an RFC 9457 document of a kind, saying what is wrong and what to do. */
export async function problem(
  answer: Response | Promise<Response>,
  status: number,
  kind: string,
): Promise<Problem> {
  const got = await answer
  const body = (await got.json()) as Problem
  expect([got.status, body.status, body.type]).toEqual([status, status, `/problems/${kind}`])
  expect(got.headers.get('content-type')).toContain('application/problem+json')
  expect(body.detail.length * body.mend.length * body.title.length).toBeGreaterThan(0)
  return body
}

/** Opens a world and a desk in a folder of its own before the tests of a file, and takes them away after them. */
export function deskFor(wall: Wall, take: (desk: Desk, dataDir: string) => void): void {
  let end: () => Promise<void>
  beforeAll(async () => {
    const dir = await tempDir()
    const desk = await Desk.open(await openWorlds(dir.path, wall), dir.path, wall)
    end = () => desk.worlds.close().then(dir.remove)
    take(desk, dir.path)
  })
  afterAll(() => end())
}

/** Runs the broker as a process of its own while the tests of a file run. */
export function processFor(take: (broker: BrokerProcess, dir: string) => void): void {
  let end: () => Promise<void>
  beforeAll(async () => {
    const dir = await tempDir()
    const broker = new BrokerProcess(dir.path, await freePort())
    end = () => broker.end().then(dir.remove)
    await broker.start()
    take(broker, dir.path)
  })
  afterAll(() => end())
}

/** A client of a desk's paper world, without a port. */
export function clientIn(desk: Desk): Broker {
  const access = new Access('http://desk', () =>
    Promise.resolve({ token: desk.token, expiresIn: 900, keyId: '' }),
  )
  const broker = new Broker(access)
  broker.fetch = async (path, init = {}, base = access.base) => {
    const { pathname, search } = new URL(`${base}${path}`)
    const answer = await desk.call(init.method ?? 'GET', pathname + search, init.body as string | undefined)
    if (!answer.ok) throw await problemOf(answer)
    return answer
  }
  return broker
}

/** A client of a broker with its key. */
export function clientOf({ url, keyFile }: Pick<BrokerProcess, 'url' | 'keyFile'>): Broker {
  const { keyId, secret } = JSON.parse(readFileSync(keyFile, 'utf8')) as Record<string, string>
  return new Broker(new Access(url, keyTokens(baseOf(url), keyId, secret)))
}

/** A Market order of a hundred, or what is said of it instead. */
export const order = (clOrdId: string, part: Partial<NewOrder> = {}): NewOrder => ({
  ...{ clOrdId, symbol: 'OSPRY', side: 'Buy', orderQty: 100, ordType: 'Market', timeInForce: 'Day' },
  ...part,
})

/** All reports of the first account of a world, oldest first. */
export const reportsOf = ({ main }: World): ExecutionReport[] =>
  Array.from({ length: main.reports.length }, (_, i) => main.reports.get(i + 1))

/** A paper world of its own for each test, told to `take` with its folder and wall clock; `current` is closed after it. */
export function worldForEach(
  take: (world: World, folder: string, wall: Wall) => void,
  current: () => World,
): void {
  let dir: Awaited<ReturnType<typeof tempDir>>
  beforeEach(async () => {
    dir = await tempDir()
    const wall = new Wall()
    take(await openWorld(dir.path, wall), dir.path, wall)
  })
  afterEach(async () => {
    await current().close()
    await dir.remove()
  })
}

/** Lets a world run on for so many seconds, and new orders meet the market. */
export async function runOn(world: World, wall: Wall, seconds: number): Promise<void> {
  wall.pass(seconds)
  await world.tick()
  await world.tick()
}
