import { type ChildProcess, spawn } from 'node:child_process'
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, it } from '@jest/globals'
import { type Order } from '@/core/orders/model'
import { type Position } from '@/core/orders/views'
import { processFor } from '@/tests/broker'
import { heron } from '@/tests/command'
import { type BrokerProcess, ROOT, run } from '@/tests/process'
import { type RunEntry } from './entries'
import { type Plan } from '@/core/plans/document'
import { planIn } from './folder'
import { idOf } from './sink'

let folder = ''
let broker: BrokerProcess
const PLAN = 'plans/fast-over-slow.json'

processFor((started, dir) => ([broker, folder] = [started, dir]))

const ask = <T>(method: string, path: string, body?: object) => broker.ask<T>(method, path, body)

const args = (...more: string[]) => [
  ...['bin/heron.mjs', 'run', PLAN, '--broker', broker.url, '--key-file', broker.keyFile],
  ...['--folder', join(folder, 'plans'), ...more],
]
const path = () => join(folder, 'plans', 'fast-over-slow', 'journal.jsonl')
/** What was written down; a line that is being written is passed over. */
const journal = (): RunEntry[] =>
  readFileSync(path(), 'utf8')
    .split('\n')
    .filter((line) => line.endsWith('}'))
    .map((line) => JSON.parse(line) as RunEntry)

const intents = () => (existsSync(path()) ? journal() : []).filter((one) => one.is === 'intent')

/** A run of the plan, or another command, as a process. */
class Life {
  out = ''
  private readonly child: ChildProcess
  private readonly gone: Promise<number | null>

  constructor(command: readonly string[] = args()) {
    this.child = spawn(process.execPath, command, {
      cwd: ROOT,
      env: { ...process.env, NODE_OPTIONS: '' },
    })
    process.once('exit', () => this.child.kill('SIGKILL'))
    this.child.stdout!.on('data', (part: Buffer) => (this.out += part.toString()))
    this.gone = new Promise((resolve) => this.child.once('close', resolve))
  }

  /** Waits until something is so, or the process is gone. */
  async until(is: () => boolean | Promise<boolean>): Promise<void> {
    while (this.child.exitCode === null && !(await is()))
      await new Promise((resolve) => setTimeout(resolve, 50))
  }

  /** Waits until the process is gone by itself; its exit code. */
  ended = (): Promise<number | null> => this.gone

  /** Ends the process with a signal and waits until it is gone; its exit code. */
  end(signal: NodeJS.Signals): Promise<number | null> {
    this.child.kill(signal)
    return this.gone
  }
}

const entries = async () =>
  (await ask<Order[]>('GET', '/orders?which=all&limit=1000')).filter(({ role }) => role === 'Entry')

const closed = async () => (await ask<{ session: string }>('GET', '/market-time')).session !== 'Open'

it('watching, it says what it would send and sends nothing', async () => {
  const life = new Life()
  await life.until(() => life.out.includes('watching: '))
  await ask('POST', '/market-time', { sessionTakes: 40, running: true })
  await life.until(() => intents().some(({ sends }) => !sends))
  expect(await life.end('SIGTERM')).toBe(0)
  expect(life.out).toContain('watching: fast-over-slow, version 1')
  expect(life.out).toMatch(/would send Buy \d+ [A-Z]+ Market/)
  expect(await entries()).toEqual([])
})

it('armed and killed again and again, it doubles no order and forgets none; at the end everything is explained', async () => {
  const wants = () => intents().filter(({ sends }) => sends).length
  /** A life that is killed once this is so, or at the end of the day. */
  const lived = async (sessionTakes: number, isOver: (out: string) => boolean) => {
    // The market waits for it, however long a start takes.
    await ask('POST', '/market-time', { running: false })
    const life = new Life(args('--arm'))
    await life.until(() => life.out.includes('armed: '))
    await ask('POST', '/market-time', { sessionTakes, running: true })
    await life.until(async () => isOver(life.out) || (await closed()))
    await life.end('SIGKILL')
  }
  await ask('POST', '/market-time', { jumpTo: 'open' })
  for (let lives = 0; lives < 3 && !(await closed()); lives++) {
    const before = wants()
    // In the middle of sending.
    await lived(40, () => wants() > before)
  }
  // Each may have been killed with its order written down and not sent: one lives on until the broker has something.
  for (const sessionTakes of [120, 480]) {
    if ((await entries()).length > 0) break
    await ask('POST', '/market-time', { jumpTo: 'open' })
    await lived(sessionTakes, (out) => out.includes('the broker took'))
  }
  // What is asked for one after the other is of one moment.
  await ask('POST', '/market-time', { running: false })
  const sent = await entries()
  const bought = sent.filter(({ side, ordStatus }) => side === 'Buy' && ordStatus !== 'Rejected')
  expect(bought.length).toBeGreaterThan(0)
  expect(bought.length).toBeLessThanOrEqual(4)
  // One entry a security and day, whatever became of the process.
  expect(new Set(bought.map(({ symbol }) => symbol)).size).toBe(bought.length)
  for (const { origin } of sent) expect(origin?.signal).toMatch(/^fast-over-slow (entry|out) /)
  // Every order that was taken was wanted before, and every want has an answer.
  const lines = journal()
  const wanted = new Set(lines.flatMap((one) => (one.is === 'intent' && one.sends ? [idOf(one.intent)] : [])))
  for (const { clOrdId } of sent) expect(wanted).toContain(clOrdId)
  // Each life knew what the one before had bought: none holds more than was filled.
  const held = await ask<Position[]>('GET', '/positions')
  for (const { symbol, quantity } of held)
    expect(quantity).toBeLessThanOrEqual(bought.find((one) => one.symbol === symbol)?.cumQty ?? 0)
})

it('the same plan armed in two places that do not know of each other doubles no order', async () => {
  await ask('POST', '/market-time', { jumpTo: 'open' })
  await ask('POST', '/market-time', { running: false })
  const before = (await entries()).length
  const lives = [new Life(args('--arm')), new Life(args('--arm', '--folder', join(folder, 'elsewhere')))]
  for (const life of lives) await life.until(() => life.out.includes('armed: '))
  const bought = () => lives.every(({ out }) => /sends Buy \d+/.test(out) && out.includes('the broker took'))
  // A market that runs away from a busy machine is run again in a later session, more slowly.
  for (const sessionTakes of [30, 120, 480]) {
    if (await closed()) await ask('POST', '/market-time', { jumpTo: 'open' })
    await ask('POST', '/market-time', { sessionTakes, running: true })
    await lives[0].until(async () => bought() || (await closed()))
    if (bought()) break
  }
  for (const life of lives) expect(await life.end('SIGTERM')).toBe(0)
  const sent = (await entries())
    .slice(before)
    .filter(({ side, ordStatus }) => side === 'Buy' && ordStatus !== 'Rejected')
  expect(bought()).toBe(true)
  // Both wanted them; the broker has each once, under its id.
  expect(new Set(sent.map(({ symbol, tradeDate }) => `${symbol} ${tradeDate}`)).size).toBe(sent.length)
})

it('two plans run in one account by one command; one that opens the other way of another is not begun', async () => {
  const read = JSON.parse(readFileSync(PLAN, 'utf8')) as Plan
  const short = { ...read, id: 'slow-over-fast', name: 'Slow over fast', sides: [read.sides[0]] }
  const deed = { ...read.sides[0].do, open: 'Short' }
  writeFileSync(
    join(folder, 'short.json'),
    JSON.stringify({ ...short, sides: [{ ...read.sides[0], do: deed }] }),
  )
  writeFileSync(join(folder, 'again.json'), JSON.stringify({ ...short, name: 'Fast again' }))
  const running = (...more: string[]) => run(process.execPath, [...args(...more), '--for', '2'])
  const both = await running('--folder', join(folder, 'two'), join(folder, 'again.json'))
  expect(both.out).toMatch(/^fast-over-slow \S+ watching: fast-over-slow, version 1$/m)
  expect(both.out).toMatch(/^slow-over-fast \S+ watching: slow-over-fast, version 1$/m)
  expect(planIn(join(folder, 'two', 'slow-over-fast'))?.name).toBe('Fast again')
  const conflict = await running('--arm', '--folder', join(folder, 'three'), join(folder, 'short.json'))
  expect([conflict.code, conflict.err]).toEqual([
    4,
    expect.stringContaining('Fast over slow is named before it and opens the other way in '),
  ])
})

it('armed anew it ends the run before it, and goes on with what that knew; heron stop ends it', async () => {
  await ask('POST', '/market-time', { running: false })
  const first = new Life(args('--arm'))
  await first.until(() => first.out.includes('armed: '))
  const own = ['--folder', join(folder, 'plans')]
  const refused = await run(process.execPath, [...args(), '--for', '1'])
  expect([refused.code, refused.err]).toEqual([4, expect.stringContaining('heron stop fast-over-slow')])
  const arm = ['bin/heron.mjs', 'arm', PLAN, '--broker', broker.url, '--key-file', broker.keyFile]
  const second = await run(process.execPath, [...arm, ...own, '--yes', '--for', '3'])
  expect(second.out).toContain('It runs already, armed, version 1')
  expect(second.out).toMatch(/armed: fast-over-slow, version 1/)
  // A signal to one that is ending would only cut it short.
  expect(await first.ended()).toBe(0)
  expect(first.out).toContain('stopped: armed anew by the command line')
  const third = new Life()
  await third.until(() => third.out.includes('watching: '))
  const stopped = await run(process.execPath, ['bin/heron.mjs', 'stop', 'fast-over-slow', ...own])
  expect(stopped.out).toContain('Ended. What is held stays')
  expect(await third.ended()).toBe(0)
  expect(third.out).toContain('stopped: stopped by hand')
})

it('heron update runs the searches of plans, keeps bars as files that heron reads, and fails where one does', async () => {
  const key = ['--broker', broker.url, '--key-file', broker.keyFile]
  const bars = join(folder, 'bars')
  const done = await heron(
    'update',
    PLAN,
    'plans/each-morning.json',
    ...key,
    '--bars',
    bars,
    '--limit',
    '300',
  )
  expect([done.code, done.out]).toEqual([0, expect.stringMatching(/^Fast over slow: 6 of 6: OSPRY, /)])
  expect(done.out).toMatch(/^Each morning: \d+ of \d+/m)
  const asked = await heron('indicators', '--bars', join(bars, '5-min', 'OSPRY.csv'), '--expr', 'close')
  expect([asked.code, asked.out.trim().split('\n').length]).toEqual([0, 301])
  const read = JSON.parse(readFileSync(PLAN, 'utf8')) as Plan
  const [side] = read.sides
  writeFileSync(
    join(folder, 'lost.json'),
    JSON.stringify({ ...read, sides: [{ ...side, among: { list: ['NOWHERE'] } }] }),
  )
  const lost = await heron('update', join(folder, 'lost.json'), ...key, '--bars', bars)
  expect([lost.code, lost.err]).toEqual([1, expect.stringContaining('NOWHERE, 5 min bars: ')])
})

it('bars of one’s own travel in the file and are missed by name; what holds when it is begun may count, once', async () => {
  await ask('POST', '/market-time', { jumpTo: 'open' })
  await ask('POST', '/market-time', { running: false })
  const { now } = await ask<{ now: string }>('GET', '/market-time')
  const date = (back: number) =>
    new Date(Date.parse(now.slice(0, 10)) - back * 86_400_000).toISOString().slice(0, 10)
  // It has been above 20 since the day before yesterday.
  const closes = Array.from({ length: 20 }, (_, k) => [date(20 - k), k < 18 ? 10 : 30])
  const csv = ['date,open,high,low,close', ...closes.map(([day, x]) => `${day},${x},${x},${x},${x}`)]
  const file = (name: string, text: string) => (writeFileSync(join(folder, name), text), join(folder, name))
  const read = JSON.parse(readFileSync(PLAN, 'utf8')) as Plan
  const [side] = read.sides
  const rule = 'close > 0 and beside("LULL", on(1 day, close)) > 20'
  const plan = { ...read, id: 'in-a-lull', name: 'In a lull', when: { look: 'Bar' } }
  const never = { entriesPerDay: 1, quoteAge: 3600 }
  const bare = file(
    'bare.json',
    JSON.stringify({ ...plan, never, sides: [{ ...side, provided: [], if: { ...side.if, rule } }] }),
  )
  const at = ['--broker', broker.url, '--key-file', broker.keyFile, '--folder', join(folder, 'own')]
  const refused = await heron('arm', bare, ...at, '--yes', '--for', '2')
  expect([refused.code, refused.out]).toEqual([
    1,
    expect.stringContaining('The broker lists no LULL, which its rule text asks about'),
  ])
  expect(refused.err).toContain('In a lull cannot be armed: The broker lists no LULL')
  expect(refused.out).toContain('Whether its condition holds now cannot be told.')
  const carried = await heron('carry', bare, file('LULL.csv', csv.join('\n')))
  expect(carried.err).toContain(`It reads LULL from your own 20 bars of 1 day, up to the close of `)
  const full = file('full.json', carried.out)
  const checked = await heron('check', full, ...at)
  // A busy machine may be too slow for it, and then it tells all as an error.
  expect(checked.out + checked.err).toContain('fine  own bars: LULL: 20 bars of 1 day')
  const waits = await heron('arm', full, ...at, '--yes', '--for', '2')
  expect(waits.out).toMatch(/Its condition holds now for OSPRY, /)
  expect(waits.out).not.toContain('sends Buy')
  const life = new Life(['bin/heron.mjs', 'run', full, ...at, '--arm', '--now'])
  await life.until(() => life.out.includes('the broker took'))
  expect(life.out).toMatch(/sends Buy \d+ OSPRY/)
  await life.end('SIGKILL')
  const after = await heron('run', full, ...at, '--arm', '--now', '--for', '2')
  expect(after.err).toContain('In a lull goes on where it was interrupted')
  expect(after.out).not.toContain('sends Buy')
})

it('what is no plan is told at its place, and nothing is asked of the broker', async () => {
  const { code, err } = await heron('run', 'package.json')
  expect(code).toBe(1)
  expect(err).toContain('package.json is no plan')
  const read = await heron('plan', PLAN)
  expect(read.out).toContain('If          sma(close, 5) crosses above sma(close, 13), on 5 min bars')
})
