import { expect, it } from '@jest/globals'
import { type Broker } from '@/client'
import { emptyBook } from '@/core/book/book'
import { type PlanEvent } from '@/core/engine/events'
import { sharedOf } from '@/core/engine/shared'
import { encodeBars } from '@/core/formats/barsBinary'
import { type ExtraName } from '@/core/market/bars'
import { toE4 } from '@/core/market/money'
import { BRACKWATER } from '@/core/market/venue'
import { barSetOf } from '@/tests/bars'
import { OSPRY } from '@/tests/venue'
import { type Known } from './connect'
import { type RunEntry } from './entries'
import { PLAN_FORM, Plan } from '@/core/plans/document'
import { Hub, type Member } from './hub'
import { type Intent } from '@/core/engine/events'
import { type Seen } from '@/core/plans/seen'
import { Run } from './run'

type Ask = Extract<Intent, { is: 'ask' }>

/** A broker whose streams are written by hand, in the form of server-sent events. */
class Written {
  readonly asked: string[] = []
  readonly followed: string[][] = []
  private readonly open = new Map<string, ReadableStreamDefaultController<Uint8Array>>()
  executionStream = '/executions/stream'

  stream = (path: string, { signal }: { signal?: AbortSignal }): Promise<ReadableStream<Uint8Array>> => {
    this.asked.push(path)
    const name = path.split('?')[0]
    const body = new ReadableStream<Uint8Array>({
      start: (controller) => {
        this.open.set(name, controller)
        signal?.addEventListener('abort', () => {
          try {
            controller.close()
          } catch {
            // It was closed already.
          }
        })
      },
    })
    return Promise.resolve(body)
  }

  say(name: string, event: string, data: unknown, id?: string): void {
    const text = `event: ${event}\ndata: ${JSON.stringify(data)}\n${id ? `id: ${id}\n` : ''}\n`
    this.open.get(name)!.enqueue(new TextEncoder().encode(text))
  }

  drop = (name: string): void => this.open.get(name)!.close()

  reports: unknown[] = []
  now = '2026-05-04T12:30:00Z'
  world = 'w'
  whoami = () => Promise.resolve({ now: this.now, world: { id: this.world } })
  executions = (after: number) =>
    Promise.resolve((this.reports as { seq: number }[]).filter(({ seq }) => seq > after))
  options = () => Promise.resolve([])
  quotes = (symbols: readonly string[]) =>
    Promise.resolve(symbols.map((symbol) => ({ ...QUOTE, symbol, at: '2026-05-04T12:30:00Z' })))
  followQuotes = (_stream: string, symbols: readonly string[]) => {
    this.followed.push([...symbols])
    return Promise.resolve()
  }
  readonly counted: string[] = []
  bars = (
    _every: string,
    { symbols = ['OSPRY', 'GANET'], extras = [] }: { symbols?: string[]; extras?: readonly string[] },
  ): Promise<ArrayBuffer> => {
    this.counted.push(extras.join())
    const set = barSetOf(Object.fromEntries(symbols.map((symbol) => [symbol, [10, 11]])))
    const bytes = encodeBars(set, '2026-05-04T12:30:00Z')
    return Promise.resolve(bytes.slice().buffer as ArrayBuffer)
  }
}

const REPORT = {
  ...{
    execId: 'E',
    execType: 'New',
    ordStatus: 'New',
    symbol: 'OSPRY',
    side: 'Buy',
    orderQty: 1,
    role: 'Entry',
  },
  ...{ ordType: 'Market', timeInForce: 'Day', cumQty: 0, leavesQty: 1, avgPx: 0, tradeDate: '2026-05-04' },
  transactTime: '2026-05-04T09:31:00-03:00',
}
const QUOTE = { bid: 10, bidSize: 1, ask: 10.1, askSize: 1, last: 10 }

function hubOf() {
  const broker = new Written()
  const listed = Object.fromEntries(
    ['OSPRY', 'GANET'].map((symbol) => [
      symbol,
      { security: { ...OSPRY, symbol }, venue: BRACKWATER, rate: 1 },
    ]),
  )
  const book = emptyBook(toE4(1000))
  const shared = sharedOf(book, listed, BRACKWATER)
  const known: Known = {
    shared,
    reports: [],
    worldId: 'w',
    account: 'A',
    now: Date.parse('2026-05-04T12:30:00Z'),
  }
  return { broker, hub: new Hub(broker as unknown as Broker, known) }
}

const planOf = (rule: string, every: string): Plan =>
  Plan.parse({
    ...{ form: PLAN_FORM, formVersion: 1, id: 'full', name: 'Full', version: 1, when: { look: 'Bar' } },
    sides: [
      {
        ...{ among: { list: ['OSPRY'] }, if: { rule, every }, provided: [] },
        ...{ do: { open: 'Long', price: 'market', size: { shares: 10 } }, then: {} },
      },
    ],
    never: { quoteAge: 600 },
  })

class Listener implements Member {
  readonly frames = ['1 day']
  growing: string[] = []
  readonly contracts = []
  counts: ExtraName[] = []
  readonly past: Member['past']
  readonly before: string[] = []
  readonly heard: string[] = []
  readonly entries: RunEntry[] = []

  constructor(
    readonly symbols: string[],
    private readonly order: string[] = [],
    private readonly name = '',
  ) {
    this.past = (event) => void this.before.push(saidBy(event))
  }

  barsBefore = () => 400
  prices = () => 'over-splits' as const
  hear(event: PlanEvent): void {
    this.heard.push(saidBy(event))
    this.order.push(this.name)
  }
  reported = () => undefined
  idle = (why: string) => void this.entries.push({ is: 'idle', why })
  write = (entry: RunEntry) => void this.entries.push(entry)
}

const saidBy = (event: PlanEvent): string => `${event.is} ${'symbol' in event ? event.symbol : ''}`
const until = async (is: () => boolean) => {
  while (!is()) await new Promise((resolve) => setTimeout(resolve, 5))
}
const quoteOf = (symbol: string) => [{ ...QUOTE, symbol, at: '2026-05-04T12:31:00Z' }]

it('tells each plan in the order of arming, once it has caught up with the past', async () => {
  const { broker, hub } = hubOf()
  const order: string[] = []
  const [first, second] = [
    new Listener(['OSPRY'], order, 'first'),
    new Listener(['OSPRY', 'GANET'], order, 'second'),
  ]
  await hub.join(first)
  expect(first.before).toEqual(['bar OSPRY', 'bar OSPRY'])
  broker.say('/quotes/stream', 'stream', { id: 'q1' })
  await hub.join(second)
  // In the order of moments, not one security after the other.
  expect(second.before).toEqual(['bar OSPRY', 'bar GANET', 'bar OSPRY', 'bar GANET'])
  await until(
    () => broker.followed.length > 0 || broker.asked.filter((path) => path.startsWith('/quotes')).length > 1,
  )
  broker.say('/quotes/stream', 'quotes', quoteOf('OSPRY'))
  await until(() => order.length === 2)
  expect(order).toEqual(['first', 'second'])
  hub.leave(first)
  hub.leave(second)
  expect(hub.isEmpty).toBe(true)
})

it('bars are counted only for plans that read counts, and where they grow for all', async () => {
  const { broker, hub } = hubOf()
  const counted = () =>
    broker.asked.filter((path) => path.startsWith('/bars/stream')).map((path) => path.split('extras=')[1])
  const [plain, reads, grows, late] = ['OSPRY', 'GANET', 'OSPRY', 'OSPRY'].map((one) => new Listener([one]))
  reads!.counts = ['downtrades']
  grows!.growing = ['1 day']
  for (const member of [plain!, reads!, grows!, late!]) await hub.join(member)
  // The last one reads no counts, and yet takes the bars that grow over anew.
  expect(broker.counted).toEqual(['', 'downtrades', 'uptrades,downtrades', 'uptrades,downtrades'])
  await until(() => counted().length === 3)
  expect(counted()).toEqual(['', 'downtrades', 'uptrades,downtrades'])
})

it('the last plan that leaves while quotes are being asked for anew leaves no stream open', async () => {
  const { broker, hub } = hubOf()
  const [first, second] = [new Listener(['OSPRY']), new Listener(['OSPRY', 'GANET'])]
  await hub.join(first)
  broker.say('/quotes/stream', 'stream', { id: 'q1' })
  await hub.join(second)
  await until(() => broker.asked.length > 0)
  await new Promise((resolve) => setTimeout(resolve, 20))
  // The broker answers only after the second has left, and refuses.
  let refuse = () => undefined as void
  broker.followQuotes = () => new Promise((_, reject) => (refuse = () => reject(new Error('gone'))))
  const before = broker.asked.length
  hub.leave(second)
  hub.leave(first)
  refuse()
  await new Promise((resolve) => setTimeout(resolve, 20))
  expect(broker.asked.slice(before)).toEqual([])
})

it('a report that is missing is asked for, one that comes twice is taken once', async () => {
  const { broker, hub } = hubOf()
  const member = new Listener(['OSPRY'])
  await hub.join(member)
  const reports = [1, 2, 3].map((seq) => ({ ...REPORT, seq, orderId: `O${seq}`, clOrdId: `a-${seq}` }))
  broker.reports = reports
  broker.say('/executions/stream', 'executionReport', reports[0])
  broker.say('/executions/stream', 'executionReport', reports[2])
  broker.say('/executions/stream', 'executionReport', reports[2])
  broker.say('/executions/stream', 'executionReport', reports[0])
  await until(() => member.heard.length === 3)
  await new Promise((resolve) => setTimeout(resolve, 20))
  expect(member.heard).toEqual(['report ', 'report ', 'report '])
  expect([hub.known.shared.book.seq, Object.keys(hub.known.shared.book.orders).length]).toEqual([3, 3])
  hub.leave(member)
})

it('bars that end together are taken by each plan in its own order, before what comes after them', async () => {
  const { broker, hub } = hubOf()
  const life = async (id: string, list: string[]) => {
    const sent: string[] = []
    const plan = planOf('close > 11', '5 min')
    const run = new Run({
      ...{ hub, acts: false, plan: { ...plan, id, sides: [{ ...plan.sides[0], among: { list } }] } },
      write: (entry) => {
        if (entry.is === 'intent' && entry.intent.is === 'send') sent.push(entry.intent.order.symbol)
      },
    })
    await run.start()
    return { run, sent }
  }
  const lives = [await life('one', ['OSPRY', 'GANET']), await life('other', ['GANET', 'OSPRY'])]
  const time = '2026-05-04T12:30:00Z'
  for (const symbol of ['OSPRY', 'GANET'])
    broker.say(
      '/bars/stream',
      'bar',
      { symbol, time, open: 12, high: 12, low: 12, close: 12, volume: 1 },
      '2026-05-04T12:35:00Z',
    )
  await until(() => lives.every(({ sent }) => sent.length === 2))
  expect(lives.map(({ sent }) => sent)).toEqual([
    ['OSPRY', 'GANET'],
    ['GANET', 'OSPRY'],
  ])
  for (const { run } of lives) await run.stop('done')
})

it('a run that is stopped while it is still being begun is never begun, at whatever moment of that', async () => {
  for (let waits = 0; waits < 30; waits++) {
    const { broker, hub } = hubOf()
    const run = new Run({
      ...{ hub, plan: planOf('close > 11', '5 min'), acts: true, write: () => undefined },
    })
    const begun = run.start()
    for (let k = 0; k < waits; k++) await Promise.resolve()
    await run.stop('stopped by hand')
    await begun
    expect(hub.isEmpty).toBe(true)
    // Streams are closed again, or were never opened.
    const { length } = broker.asked
    await new Promise((resolve) => setTimeout(resolve, 5))
    expect(broker.asked).toHaveLength(length)
  }
})

it('a condition that began while the broker was away leads to nothing; one that begins after does', async () => {
  const { broker, hub } = hubOf()
  const intents: string[] = []
  const run = new Run({
    ...{ hub, plan: planOf('close > 11', '5 min'), acts: false },
    write: (entry) =>
      entry.is === 'intent' && intents.push(new Date(entry.intent.at).toISOString().slice(11, 16)),
  })
  await run.start()
  const bar = (end: string, close: number) => {
    const time = new Date(Date.parse(`2026-05-04T${end}:00Z`) - 300_000).toISOString()
    const values = { open: close, high: close, low: close, close, volume: 1 }
    broker.say('/bars/stream', 'bar', { symbol: 'OSPRY', time, ...values }, `2026-05-04T${end}:00Z`)
  }
  broker.drop('/bars/stream')
  broker.now = '2026-05-04T12:50:30Z'
  await until(() => broker.asked.filter((path) => path.startsWith('/bars')).length === 2)
  bar('12:35', 12)
  bar('12:40', 10)
  await until(() => run.at === Date.parse('2026-05-04T12:50:30Z'))
  broker.say('/quotes/stream', 'quotes', [{ ...QUOTE, symbol: 'OSPRY', at: '2026-05-04T12:50:40Z' }])
  bar('12:50', 12)
  await until(() => intents.length > 0)
  expect(intents).toEqual(['12:50'])
  await run.stop('done')
})

it('an event of which nothing had become is asked about again; one that was declined is not', async () => {
  const plan = Plan.parse({
    ...planOf('close > 0', '1 day'),
    when: { look: 'Event' },
    sides: [{ ...planOf('close > 0', '1 day').sides[0], ask: { minutes: 60 } }],
    seen: {},
    events: [{ key: 'h-1', symbol: 'OSPRY', at: '2026-05-04T12:30:30Z' }],
  })
  const life = async (seen: Record<string, Seen>, yes?: boolean) => {
    const { broker, hub } = hubOf()
    let asked = 0
    const book = { ...seen }
    const run = new Run({
      ...{ hub, plan, acts: true, seen, since: Date.parse('2026-05-04T12:00:00Z') },
      write: (entry) => {
        if (entry.is === 'seen') book[entry.key] = entry.entry
        if (entry.is === 'intent') asked++
        if (entry.is === 'intent' && entry.intent.is === 'ask' && yes !== undefined)
          setTimeout(() => run.tell({ is: 'answer', clOrdId: (entry.intent as Ask).order.clOrdId, yes }))
      },
    })
    await run.start()
    broker.say('/quotes/stream', 'clock', { now: '2026-05-04T12:31:00Z' })
    await until(() => run.at >= Date.parse('2026-05-04T12:31:00Z'))
    await new Promise((resolve) => setTimeout(resolve, 20))
    await run.stop('done')
    return { asked, book }
  }
  const first = await life({})
  expect([first.asked, first.book['h-1'].became]).toEqual([1, 'Seen'])
  const second = await life(first.book, false)
  expect([second.asked, second.book['h-1'].became]).toEqual([1, 'Declined'])
  expect((await life(second.book)).asked).toBe(0)
})

it('an entry that cannot be written down is not sent, and holds nothing back', async () => {
  const { hub } = hubOf()
  const plan = planOf('close > 0', '1 day')
  const told: string[] = []
  const run = new Run({
    ...{ hub, plan, acts: true, atOnce: true },
    write: (entry) => {
      if (entry.is === 'intent') throw new Error('no space is left')
    },
    trouble: (why) => told.push(why),
  })
  // Its broker takes no orders: one that was sent would fail.
  await run.start()
  expect(told).toEqual(['Full: no space is left'])
  expect(hub.known.shared.pending).toEqual({})
  await run.stop('done')
})

it('a stream that is taken up again after a second plan has come follows what both look at', async () => {
  const { broker, hub } = hubOf()
  const first = new Listener(['OSPRY'])
  await hub.join(first)
  broker.say('/quotes/stream', 'stream', { id: 'q1' })
  broker.say('/quotes/stream', 'quotes', quoteOf('OSPRY'))
  await until(() => first.heard.length === 1)
  const second = new Listener(['GANET'])
  await hub.join(second)
  expect(broker.followed).toEqual([['OSPRY', 'GANET']])
  const opened = () => broker.asked.filter((path) => path.startsWith('/quotes')).length
  broker.drop('/quotes/stream')
  await until(() => opened() === 2)
  broker.say('/quotes/stream', 'stream', { id: 'q2' })
  await until(() => broker.followed.length === 2)
  expect(broker.followed[1]).toEqual(['OSPRY', 'GANET'])
  hub.leave(first)
  hub.leave(second)
})

it('a bar that is told again after a stream was begun anew is told to all, and the clock alone moves time', async () => {
  const { broker, hub } = hubOf()
  const first = new Listener(['OSPRY'])
  await hub.join(first)
  broker.say('/quotes/stream', 'clock', { now: '2026-05-04T12:35:00Z' })
  const bar = { symbol: 'OSPRY', time: '2026-05-04', open: 1, high: 1, low: 1, close: 1, volume: 1 }
  broker.say('/bars/stream', 'bar', bar, '2026-05-04T19:00:00Z')
  await until(() => first.heard.length === 2)
  expect(first.heard.sort()).toEqual(['bar OSPRY', 'time '])
  expect(hub.at).toBe(Date.parse('2026-05-04T19:00:00Z'))
  hub.leave(first)
})

it('in another world everything stands still, says why, and is told nothing more', async () => {
  const { broker, hub } = hubOf()
  const entries: RunEntry[] = []
  const plan = planOf('close > 0', '1 day')
  const run = new Run({ hub, plan, acts: true, write: (entry) => void entries.push(entry) })
  await run.start()
  const listener = new Listener(['OSPRY'])
  await hub.join(listener)
  broker.world = 'v'
  broker.drop('/quotes/stream')
  await until(() => run.idleWhy !== undefined)
  expect(run.idleWhy).toMatch(/^the broker is in another world by now \(v\), and this was begun in w: /)
  expect(entries.at(-1)).toEqual({ is: 'idle', why: run.idleWhy })
  expect(hub.isEmpty).toBe(true)
  const before = listener.heard.length
  run.tell({ is: 'view', view: 'Up' })
  expect([listener.heard.length, entries.at(-1)?.is]).toEqual([before, 'idle'])
  await run.stop('done')
})

it('a search that fails has the plan look at nothing, said once, until it is run again', async () => {
  const { broker, hub } = hubOf()
  const entries: RunEntry[] = []
  const base = planOf('close > 0', '1 day')
  const found = { name: 'all', rule: 'close > 1', every: '1 day', again: { minutes: 1 } }
  const plan = Plan.parse({ ...base, sides: [{ ...base.sides[0], among: { found } }] })
  const run = new Run({ hub, plan, acts: true, write: (entry) => void entries.push(entry) })
  await run.start()
  expect([...run.symbols].sort()).toEqual(['GANET', 'OSPRY'])
  const { bars } = broker
  const fails = { is: true }
  broker.bars = (every, asked) => (fails.is ? Promise.reject(new Error('Away.')) : bars(every, asked))
  const minute = (at: string) => run.hear({ is: 'time', at: Date.parse(at) })
  minute('2026-05-04T12:32:00Z')
  await until(() => run.symbols.length === 0)
  const troubles = () => entries.flatMap((one) => (one.is === 'trouble' ? [one.why] : []))
  expect(troubles()).toEqual([expect.stringMatching(/^It looks at nothing until .*: Away\. What it holds/)])
  minute('2026-05-04T12:33:30Z')
  await new Promise((resolve) => setTimeout(resolve, 20))
  expect(troubles()).toHaveLength(1)
  fails.is = false
  minute('2026-05-04T12:35:00Z')
  await until(() => run.symbols.length === 2)
  await run.stop('done')
})
