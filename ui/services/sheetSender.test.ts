import { beforeEach, expect, it } from '@jest/globals'
import { type Broker, BrokerProblem } from '@/client'
import { type NewOrder, type SentOrder } from '@/core/orders/model'
import { useSheet } from '../sheet/sheetStore'
import { SheetSender } from './sheetSender'

beforeEach(() => {
  useSheet.setState({ sent: {}, sending: undefined, ended: undefined })
})

const rows = (many: number, side: (i: number) => string = () => 'Buy') =>
  Array.from({ length: many }, (_, i) => ({
    line: i + 2,
    order: { clOrdId: `r-${i}`, symbol: 'OSPRY', side: side(i), orderQty: 1 } as NewOrder,
  }))

/** A broker that answers in the next moment; `refuses` says what it refuses, by client order id. */
function brokerThat(refuses: (id: string) => BrokerProblem | undefined = () => undefined) {
  const log = { asked: [] as string[], underWay: 0, most: 0, sides: new Set<string>(), crossed: false }
  const send = async ({ clOrdId, side }: SentOrder) => {
    log.asked.push(clOrdId)
    log.most = Math.max(log.most, ++log.underWay)
    log.crossed ||= log.sides.size > 0 && !log.sides.has(side)
    log.sides.add(side)
    await new Promise((resolve) => setTimeout(resolve, 1))
    if (--log.underWay === 0) log.sides.clear()
    const problem = refuses(clOrdId)
    if (problem) throw problem
    return {}
  }
  return { broker: { send } as unknown as Broker, log }
}
const problem = (kind: string, status: number) =>
  new BrokerProblem(kind, kind, `${kind}.`, 'Mend it.', status)

it('sends several rows at one time, each once, and never two sides of a security together', async () => {
  const { broker, log } = brokerThat()
  await new SheetSender(broker).send(rows(60, (i) => (i % 10 < 7 ? 'Buy' : 'Sell')))
  expect([log.asked.length, new Set(log.asked).size, log.most, log.crossed]).toEqual([60, 60, 4, false])
  expect(Object.values(useSheet.getState().sent).every(({ is }) => is === 'sent')).toBe(true)
  expect(useSheet.getState().sending).toBeUndefined()
})

it('stops when it is asked to, answers what is under way, and goes on with the rest later', async () => {
  const { broker, log } = brokerThat()
  const sender = new SheetSender(broker)
  const all = rows(50)
  const sending = sender.send(all)
  while (log.asked.length < 10) await new Promise((resolve) => setTimeout(resolve, 0))
  sender.stop()
  await sending
  const { sent, ended } = useSheet.getState()
  expect(log.asked.length).toBeLessThan(20)
  expect(Object.keys(sent)).toHaveLength(log.asked.length)
  expect(ended).toBe('You stopped it. The rows that are left can be sent later.')
  await sender.send(all.filter(({ line }) => !sent[line]))
  expect(new Set(log.asked).size).toBe(50)
  expect(log.asked).toHaveLength(50)
})

it('ends by itself where the broker is away or the account stands down, and waits where it asks too fast', async () => {
  const away = brokerThat((id) => (id === 'r-3' ? problem('unreachable', 0) : undefined))
  await new SheetSender(away.broker).send(rows(40))
  expect(useSheet.getState().ended).toContain('The broker does not answer.')
  expect(away.log.asked.length).toBeLessThan(12)
  let slow = 1
  const fast = brokerThat(() => (slow-- > 0 ? problem('too-many-requests', 429) : undefined))
  await new SheetSender(fast.broker).send(rows(3))
  expect(fast.log.asked.toSorted()).toEqual(['r-0', 'r-0', 'r-1', 'r-2'])
})
