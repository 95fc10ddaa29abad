import { type ChildProcess, spawn } from 'node:child_process'
import { appendFileSync, existsSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, it } from '@jest/globals'
import { Plan } from '@/core/plans/document'
import { type Order } from '@/core/orders/model'
import { clientOf, processFor } from '@/tests/broker'
import { heron as command } from '@/tests/command'
import { type BrokerProcess, ROOT, run } from '@/tests/process'
import { type RunEntry } from './entries'
import { decodeBars } from '@/core/formats/barsBinary'
import { openTable } from '@/core/market/barTable'
import { parseTimeframe } from '@/core/market/timeframe'
import { barAt } from '@/core/rules/exec/liveBar'
import { knownAccount } from './connect'
import { growingAt } from './past'
import { linesOf, tracesOf } from './folder'
import { Dated } from './told'

let folder = ''
let broker: BrokerProcess

processFor((started, dir) => ([broker, folder] = [started, dir]))

const ask = <T>(method: string, path: string, body?: object) => broker.ask<T>(method, path, body)

const planFile = () => join(folder, 'plan.json')
const eventsFile = () => join(folder, 'events.csv')
const plans = () => join(folder, 'plans')
const heron = (...args: string[]) => command(...args, '--folder', plans())
const key = () => ['--broker', broker.url, '--key-file', broker.keyFile]
const own = () => join(plans(), 'announced')
const journal = (): RunEntry[] => [...linesOf(own()), ...tracesOf(own())]
const until = async (is: () => boolean) => {
  while (!is()) await new Promise((resolve) => setTimeout(resolve, 50))
}
const started = (...more: string[]): ChildProcess => {
  const file = existsSync(join(folder, 'carried.json')) ? join(folder, 'carried.json') : planFile()
  const args = ['bin/heron.mjs', 'run', file, ...key(), '--folder', plans(), '--events', eventsFile()]
  const child = spawn(process.execPath, [...args, ...more], {
    cwd: ROOT,
    env: { ...process.env, NODE_OPTIONS: '' },
  })
  process.once('exit', () => child.kill('SIGKILL'))
  return child
}
const ended = (child: ChildProcess) => {
  const gone = new Promise((resolve) => child.once('close', resolve))
  child.kill('SIGTERM')
  return gone
}

/** Bought when it is announced and I have said yes, for a score that comes from outside. */
const PLAN = Plan.parse({
  ...{ form: 'fleet-heron-plan', formVersion: 1, id: 'announced', name: 'Announced', version: 1 },
  when: { look: 'Event' },
  sides: [
    {
      among: { list: ['OSPRY'] },
      if: { rule: 'close > 0', every: '1 min' },
      provided: [],
      score: { lines: [{ name: 'contract', points: 3, from: 'Outside' }], least: 2, waits: 60 },
      ask: { minutes: 60 },
      do: { open: 'Long', price: 'market', size: { shares: 10 } },
      then: { exits: { stop: { percent: 5 } } },
    },
  ],
  never: { entriesPerDay: 2, quoteAge: 600 },
  seen: {},
})

it('an event from a file waits for points, then for an answer; it is sent once, and not again after a restart', async () => {
  writeFileSync(planFile(), JSON.stringify(PLAN))
  await ask('POST', '/market-time', { sessionTakes: 1800, running: true })
  const first = started('--arm')
  await until(() => journal().some((one) => one.is === 'started'))
  // Dated once the plan runs, however long that took: what is older than its beginning is passed over.
  const { now } = await ask<{ now: string }>('GET', '/market-time')
  writeFileSync(eventsFile(), `key,symbol,at,text\nh-1,OSPRY,${now},"renewal, inner roads"\n`)
  await until(() => journal().some((one) => one.is === 'trace'))
  // The same plan does not run twice.
  const second = await run(process.execPath, [
    'bin/heron.mjs',
    'run',
    planFile(),
    ...key(),
    '--folder',
    plans(),
  ])
  expect([second.code, second.err]).toEqual([4, expect.stringContaining('runs already')])
  expect((await heron('points', 'announced', 'h-1', 'contract', '3', '--reason', 'large')).out).toBe(
    'Told.\n',
  )
  await until(() => journal().some((one) => one.is === 'intent' && one.intent.is === 'ask'))
  const { out } = await heron('status')
  const [, order] = /heron answer announced (\S+) yes/.exec(out)!
  expect(await ask<Order[]>('GET', '/orders?which=all')).toEqual([])
  expect((await heron('answer', 'announced', order, 'perhaps')).code).toBe(2)
  // What is not there is refused, and said.
  expect((await heron('points', 'announced', 'h-1', 'contract', '9')).err).toContain('“contract” gives 0 to')
  expect((await heron('points', 'announced', 'h-1', 'no line', '1')).err).toContain(
    'takes no points for “no line”',
  )
  expect((await heron('points', 'announced', 'h-9', 'contract', '1')).err).toContain(
    'No event “h-9” has come',
  )
  expect((await heron('answer', 'announced', 'p.none', 'yes')).err).toContain('asks about no order p.none')
  expect((await heron('view', 'announced', 'up')).err).toContain('does not ask for your view')
  expect((await heron('seen', 'announced', 'h-9', 'seen')).err).toContain('Nothing stands in the seen book')
  expect((await heron('answer', 'announced', order, 'yes')).out).toBe('Told.\n')
  await until(() => journal().some((one) => one.is === 'taken'))
  const sent = await ask<Order[]>('GET', '/orders?which=all')
  expect(sent.find(({ role }) => role === 'Entry')).toMatchObject({
    clOrdId: order,
    orderQty: 10,
    origin: { name: 'Announced' },
  })
  await until(() => journal().some((one) => one.is === 'seen' && one.entry.became === 'Filled'))
  expect((await heron('status')).out).toMatch(/Buy 10 OSPRY p\.\S+: decided in \d+ ms, taken after \d+ ms/)
  await ended(first)
  expect((await heron('status')).out).toContain('announced, version 1: stopped')
  expect((await heron('points', 'announced', 'h-1', 'contract', '3')).err).toContain('does not run')
  // Begun anew it is told of the same event, and knows it.
  const again = started('--arm')
  await until(() => journal().filter(({ is }) => is === 'started').length === 2)
  await until(() => {
    const last = journal().findLast((one) => one.is === 'trace')
    return last?.is === 'trace' && last.trace.findings.some(({ why }) => why === 'seen before')
  })
  expect((await heron('memory', 'announced')).err).toContain('end it first')
  // What it did in this session is told after it was begun again, too.
  const resumed = (await heron('status')).out
  expect(resumed).toMatch(/Looked .* and sent 1 entry\./)
  expect(resumed).toMatch(/Buy 10 OSPRY p\.\S+: decided in \d+ ms, taken after \d+ ms/)
  await ended(again)
  // Carried to another place with all that it remembers, it knows the event there too.
  const carried = (await heron('memory', 'announced')).out
  writeFileSync(join(folder, 'carried.json'), carried)
  const there = started('--arm', '--folder', join(folder, 'there'))
  const told = () => tracesOf(join(folder, 'there', 'announced'))
  await until(() =>
    told().some((one) => one.is === 'trace' && one.trace.findings.some(({ why }) => why === 'seen before')),
  )
  await ended(there)
  expect(journal().filter((one) => one.is === 'intent' && one.intent.is === 'send')).toHaveLength(1)
})

it('before the night everything that a plan needs is looked at; what is wrong is named and ends with a code', async () => {
  const fine = await heron('check', planFile(), ...key())
  expect(fine.out.split('\n').map((line) => line.split(':')[0])).toEqual([
    ...[
      'fine  disk',
      'fine  latency',
      'fine  rights',
      'fine  1 min bars',
      'fine  streams',
      'fine  clock',
      '',
    ],
  ])
  expect(fine.code).toBe(0)
  // What a search finds now is looked at, as if the plan were begun.
  const morning = await heron('check', 'plans/each-morning.json', ...key())
  expect(morning.out).toMatch(/^fine {2}among: \d+ are found now$/m)
  expect(morning.out).toMatch(/^fine {2}\d+ \w+ bars: there are bars of all \d+$/m)
  // Contracts need an account of another level.
  const shoals = await heron('check', 'plans/between-the-shoals.json', ...key())
  expect([shoals.code, shoals.err]).toEqual([1, expect.stringMatching(/^WRONG account: /m)])
  const unfit = await heron('run', 'plans/between-the-shoals.json', ...key(), '--arm', '--for', '1')
  expect([unfit.code, unfit.err]).toEqual([1, expect.stringContaining('Between the shoals cannot be armed.')])
  const armed = await run(
    process.execPath,
    ['bin/heron.mjs', 'arm', planFile(), ...key(), '--folder', plans()],
    {
      input: 'no\n',
    },
  )
  expect(armed.out).toContain('At most 2 entries a day.')
  expect(armed.out).toContain('Nothing is armed.')
  // Nobody is there to answer.
  const alone = await run(process.execPath, [
    ...['bin/heron.mjs', 'arm', planFile(), ...key(), '--folder', plans()],
  ])
  expect([alone.code, alone.err]).toEqual([
    2,
    expect.stringContaining('the input ended before an answer came'),
  ])
  // What the broker does not list is named by every command.
  const unlisted = join(folder, 'unlisted.json')
  const [side] = PLAN.sides
  writeFileSync(
    unlisted,
    JSON.stringify({ ...PLAN, sides: [{ ...side, among: { list: ['OSPRY', 'NOSUCH'] } }] }),
  )
  for (const [name, ...more] of [['check'], ['arm', '--yes'], ['run', '--for', '1'], ['run', '--arm']]) {
    const { code, err } = await heron(name, unlisted, ...key(), ...more)
    expect([code, err]).toEqual([1, expect.stringContaining('NOSUCH. Take ')])
    expect(err).not.toContain('did not expect')
  }
})

it('why nothing was ordered at a time is told from what was written and from the prices of then', async () => {
  const asked = await heron('why', planFile(), 'OSPRY', '10:31', ...key())
  expect(asked.out).toMatch(/^Nothing was written down of OSPRY by then|^Written at /)
  expect(asked.out).toContain('On the prices of 10:31:00, with the account as it is now:')
  expect(asked.out).toMatch(/holds {3}If {8}close [\d.]+ is above 0/)
  const finding = { clause: 'Provided', name: 'widest spread', verdict: 'fails', why: 'not met' }
  const miss = { symbol: 'GANET', at: Date.parse('2026-03-16T10:30:00-03:00'), findings: [finding], gap: 0.1 }
  appendFileSync(
    join(plans(), 'announced', 'journal.jsonl'),
    `${JSON.stringify({ is: 'miss', miss, wall: '2026-03-16T13:30:00Z', market: '2026-03-16T10:30:00-03:00' })}\n`,
  )
  const nearest = await heron('why', planFile(), 'OSPRY', '10:31', ...key())
  expect(nearest.out).toContain('Of the session: Nearest miss: GANET at 10:30, ')
  // A look comes a moment after the bar at whose end it ordered: asked by the second, that end is judged again.
  const trace = { symbol: 'OSPRY', at: Date.parse('2026-03-16T10:31:00-03:00'), clOrdId: 'p.x', findings: [] }
  appendFileSync(
    join(plans(), 'announced', 'traces', '2026-03-16.jsonl'),
    `${JSON.stringify({ is: 'trace', trace, wall: '2026-03-16T13:31:02Z', market: '2026-03-16T10:31:02-03:00' })}\n`,
  )
  const ordered = await heron('why', planFile(), 'OSPRY', '10:31:02', ...key())
  expect(ordered.out).toContain('Written at 10:31:02: OSPRY: orders')
  expect(ordered.out).toContain('On the prices of 10:31:00, ')
  expect((await heron('why', planFile(), 'OSPRY', '25:31', ...key())).code).toBe(2)
  const sunday = await heron('why', planFile(), 'OSPRY', '10:31', '--date', '2026-03-15', ...key())
  expect(sunday.err).toContain('There was no session on 2026-03-15')
})

it('a bar of a past moment is put together from minutes and seconds as the broker tells it later', async () => {
  const client = clientOf(broker)
  const { shared } = await knownAccount(client, ['OSPRY'])
  for (const every of ['5 min', '1 hour']) {
    const answer = await client.bars(every, {
      ...{ symbols: ['OSPRY'], from: '2026-03-13', to: '2026-03-13', limit: 4 },
    })
    const [bars] = openTable(decodeBars(answer)).bars
    const { time, end, ...whole } = barAt(bars, 2)
    // At its last second all of it has been traded; a second earlier than the next minute some of it.
    const grown = await growingAt(client, shared.listed.OSPRY, parseTimeframe(every)!, end - 1000)
    const { volume, ...prices } = whole
    expect(grown).toMatchObject({ time, ...prices })
    expect(grown!.volume).toBeCloseTo(volume, 0)
    const before = await growingAt(client, shared.listed.OSPRY, parseTimeframe(every)!, time + 90_000)
    expect(before!.volume).toBeLessThan(whole.volume)
    expect(before!.high).toBeLessThanOrEqual(whole.high)
  }
})

it('events come at their moments, oldest first, each once; those from before are passed over', () => {
  const event = (key: string, at: number) => ({ key, symbol: 'OSPRY', at: new Date(at).toISOString() })
  const dated = new Dated(1000)
  dated.add([event('late', 3000), event('before', 500), event('b', 2000)])
  dated.add([event('a', 2000), event('late', 3000)])
  expect(dated.due(1500)).toEqual([])
  expect(dated.due(2500).map(({ key }) => key)).toEqual(['a', 'b'])
  expect(dated.due(9000).map(({ key }) => key)).toEqual(['late'])
  expect(dated.due(9000)).toEqual([])
})
