import { beforeEach, expect, it } from '@jest/globals'
import { type Broker, BrokerProblem } from '@/client'
import { type NewOrder, type SentOrder } from '@/core/orders/model'
import { useSheet } from '../sheet/sheetStore'
import { SheetSender } from './sheetSender'

beforeEach(() => {
  useSheet.setState({ sent: {}, sending: undefined, ended: undefined })
})

const rows = (many: number) =>
  Array.from({ length: many }, (_, i) => ({
    line: i + 2,
    order: { clOrdId: `r-${i}`, symbol: 'OSPRY', side: 'Buy', orderQty: 1 } as NewOrder,
  }))

/** A broker that answers in the next moment; `refuses` says what it refuses, by client order id; a request with `unread` not at all. */
function brokerThat(refuses: (id: string) => BrokerProblem | undefined = () => undefined, unread?: string) {
  const log = { requests: [] as string[][], asked: [] as string[], underWay: 0, most: 0 }
  const sendMany = async (orders: SentOrder[]) => {
    const ids = orders.map(({ clOrdId }) => clOrdId)
    log.requests.push(ids)
    log.most = Math.max(log.most, ++log.underWay)
    await new Promise((resolve) => setTimeout(resolve, 1))
    log.underWay--
    const whole = ids.map(refuses).find((one) => one && WHOLE.includes(one.status))
    if (whole) throw whole
    if (unread && ids.includes(unread)) throw problem('malformed-request', 400)
    log.asked.push(...ids)
    return ids.map((id) => refuses(id) ?? {})
  }
  return { broker: { sendMany } as unknown as Broker, log }
}
/** Statuses of a problem with the request itself. */
const WHOLE = [0, 401, 429]
const problem = (kind: string, status: number) =>
  new BrokerProblem(kind, kind, `${kind}.`, 'Mend it.', status)

it('sends rows many to a request, one request at a time, each once and in their order', async () => {
  const { broker, log } = brokerThat()
  await new SheetSender(broker).send(rows(60))
  expect([log.requests.map((ids) => ids.length), log.most]).toEqual([[25, 25, 10], 1])
  expect(log.asked).toEqual(rows(60).map(({ order }) => order.clOrdId))
  expect(Object.values(useSheet.getState().sent).every(({ is }) => is === 'sent')).toBe(true)
  expect(useSheet.getState().sending).toBeUndefined()
})

it('stops when it is asked to, answers what is under way, and goes on with the rest later', async () => {
  const { broker, log } = brokerThat()
  const sender = new SheetSender(broker)
  const all = rows(100)
  const sending = sender.send(all)
  while (log.requests.length < 2) await new Promise((resolve) => setTimeout(resolve, 0))
  sender.stop()
  await sending
  const { sent, ended } = useSheet.getState()
  expect(log.asked.length).toBe(50)
  expect(Object.keys(sent)).toHaveLength(50)
  expect(ended).toBe('You stopped it. The rows that are left can be sent later.')
  await sender.send(all.filter(({ line }) => !sent[line]))
  expect(new Set(log.asked).size).toBe(100)
  expect(log.asked).toHaveLength(100)
})

it('a row that is refused, or cannot be read, keeps no other from being sent', async () => {
  const refused = brokerThat((id) => (id === 'r-3' ? problem('price-off-tick', 422) : undefined), 'r-7')
  await new SheetSender(refused.broker).send(rows(30))
  const { sent, ended } = useSheet.getState()
  expect(Object.entries(sent).filter(([, { is }]) => is !== 'sent')).toEqual([
    ['5', { is: 'refused', problem: expect.objectContaining({ kind: 'price-off-tick' }) }],
    ['9', { is: 'refused', problem: expect.objectContaining({ kind: 'malformed-request' }) }],
  ])
  expect([Object.keys(sent).length, ended]).toEqual([30, undefined])
})

it('ends by itself where the broker is away, the key is withdrawn or the account stands down', async () => {
  for (const [kind, status, asked] of [
    ['unreachable', 0, 25],
    ['unknown-key', 401, 25],
    ['stood-down', 422, 50],
  ] as const) {
    useSheet.setState({ sent: {}, ended: undefined })
    const away = brokerThat((id) => (id === 'r-30' ? problem(kind, status) : undefined))
    await new SheetSender(away.broker).send(rows(90))
    const { sent, ended } = useSheet.getState()
    expect([kind, away.log.asked.length, Object.keys(sent).length]).toEqual([kind, asked, 50])
    expect(sent[32]).toMatchObject({ is: 'refused' })
    expect(ended).toContain('The rows that are left can be sent later.')
  }
})

it('waits where it asks too fast, and asks again', async () => {
  let slow = 1
  const fast = brokerThat(() => (slow-- > 0 ? problem('too-many-requests', 429) : undefined))
  await new SheetSender(fast.broker).send(rows(3))
  expect([fast.log.requests.length, fast.log.asked]).toEqual([2, ['r-0', 'r-1', 'r-2']])
})
