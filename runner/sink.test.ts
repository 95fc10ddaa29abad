import { expect, it } from '@jest/globals'
import { type Broker, BrokerProblem } from '@/client'
import { type Intent } from '@/core/engine/events'
import { type NewOrder } from '@/core/orders/model'
import { type RunEntry } from './entries'
import { Sink } from './sink'

const away = () => new BrokerProblem('unreachable', 'Away', 'The broker does not answer.', '', 0)
const order = { clOrdId: 'p.a', symbol: 'OSPRY', side: 'Buy', orderQty: 1 } as NewOrder
const intentOf = (role: 'entry' | 'out'): Intent => ({
  ...{ planId: 'a', version: 1, at: 0 },
  ...{ is: 'send', role, order },
})

/** A broker that does not answer the first so many times; `stands` is what it knows of the order by then. */
function sinkWith(silent: number, stands: readonly object[]) {
  let asked = 0
  const answer = <T>(value: T) => (asked++ < silent ? Promise.reject(away()) : Promise.resolve(value))
  const broker = { send: () => answer(order), ordersBy: () => answer(stands) }
  const entries: RunEntry[] = []
  const refused: string[] = []
  const sink = new Sink(
    broker as unknown as Broker,
    (entry) => entries.push(entry),
    () => refused.push('refused'),
    [1, 1],
  )
  return { sink, entries, refused, times: () => asked }
}

it('what leaves is sent for as long as it takes', async () => {
  const { sink, entries, times } = sinkWith(40, [])
  await sink.now(intentOf('out'))
  expect(times()).toBe(41)
  expect(entries).toEqual([{ is: 'taken', clOrdId: 'p.a', waited: expect.any(Number) }])
})

it('an entry is tried a few times; then the broker is asked whether it came, and it holds nothing back if not', async () => {
  const lost = sinkWith(10, [])
  await lost.sink.now(intentOf('entry'))
  expect(lost.refused).toEqual(['refused'])
  expect(lost.entries).toEqual([
    { is: 'refused', clOrdId: 'p.a', why: expect.stringContaining('did not reach the broker') },
  ])
  const late = sinkWith(10, [order])
  await late.sink.now(intentOf('entry'))
  expect(late.refused).toEqual([])
  expect(late.entries).toEqual([{ is: 'taken', clOrdId: 'p.a', waited: expect.any(Number) }])
})

it('stopped while the broker is away it tries nothing again, and says what was not sent', async () => {
  const { sink, entries } = sinkWith(Infinity, [])
  sink.take(intentOf('out'))
  await new Promise((resolve) => setTimeout(resolve, 10))
  await sink.quiet()
  expect(entries).toEqual([{ is: 'not sent', clOrdId: 'p.a', why: 'The broker does not answer.' }])
})

const mate = { clOrdId: 'p.b', symbol: 'GANET', side: 'SellShort', orderQty: 1 } as NewOrder
const pairIntents: Intent[] = [
  { ...{ planId: 'a', version: 1, at: 0 }, ...{ is: 'send', role: 'entry', order, mate } },
  { ...{ planId: 'a', version: 1, at: 0 }, ...{ is: 'send', role: 'entry', order: mate, mateOf: 'p.a' } },
]

/** Takes both legs of a pair at a broker that halts a security, or would refuse one. */
async function sentOfPair({ halted, wouldRefuse }: { halted?: string; wouldRefuse?: string }) {
  const sent: string[] = []
  const broker = {
    quotes: (symbols: string[]) =>
      Promise.resolve(symbols.map((symbol) => ({ symbol, ...(symbol === halted ? { halted: true } : {}) }))),
    check: ({ symbol }: NewOrder) =>
      Promise.resolve({
        accepted: symbol !== wouldRefuse,
        checks: symbol === wouldRefuse ? [{ verdict: 'fails', sentence: 'none can be borrowed' }] : [],
      }),
    send: ({ symbol }: NewOrder) => (sent.push(symbol), Promise.resolve({})),
  }
  const whys: string[] = []
  const sink = new Sink(
    broker as unknown as Broker,
    () => undefined,
    (_want, why) => whys.push(why),
  )
  for (const intent of pairIntents) sink.take(intent)
  await sink.quiet()
  return { sent: sent.toSorted().toReversed(), whys }
}

it('neither leg of a pair is sent unless the broker would take both and both trade', async () => {
  expect(await sentOfPair({})).toEqual({ sent: ['OSPRY', 'GANET'], whys: [] })
  const refused = 'neither leg was sent, since the broker would refuse GANET (none can be borrowed)'
  expect(await sentOfPair({ wouldRefuse: 'GANET' })).toEqual({ sent: [], whys: [refused, refused] })
  const halted = 'neither leg was sent, since trading in OSPRY is halted'
  expect(await sentOfPair({ halted: 'OSPRY' })).toEqual({ sent: [], whys: [halted, halted] })
})
