import { afterAll, beforeAll, expect, it } from '@jest/globals'
import { type ExecutionReport, type Order } from '@/core/orders/model'
import { tempDir } from '@/tests/broker'
import { BrokerProcess, freePort } from '@/tests/process'

let dir: Awaited<ReturnType<typeof tempDir>>
let broker: BrokerProcess
beforeAll(async () => {
  dir = await tempDir()
  broker = new BrokerProcess(dir.path, await freePort())
  await broker.start()
})
afterAll(async () => {
  await broker.end()
  await dir.remove()
})

/**
 * Sends orders, several at a time, until the broker is gone: `many` when enough are acknowledged, `done` at the end.
 */
function sendUntilGone(token: string, round: number, enough: number) {
  const sent = new Set<string>()
  const acknowledged = new Map<string, string>()
  let [next, over] = [0, false]
  let reached: () => void = () => undefined
  const many = new Promise<void>((resolve) => (reached = resolve))
  const sender = async () => {
    while (!over) {
      const clOrdId = `kill-${round}-${next++}`
      sent.add(clOrdId)
      try {
        const answer = await fetch(`${broker.url}/paper/orders`, {
          method: 'POST',
          headers: { Authorization: `Bearer ${token}`, 'Content-Type': 'application/json' },
          body: JSON.stringify({
            clOrdId,
            symbol: next % 2 ? 'OSPRY' : 'GANET',
            side: 'Buy',
            orderQty: 1,
            ...(next % 3
              ? { ordType: 'Limit', price: 1.5 }
              : { ordType: 'Market', exits: { stop: { percent: 3 }, target: { percent: 7 } } }),
          }),
        })
        const order = (await answer.json()) as Order
        if (answer.status === 201) acknowledged.set(clOrdId, order.orderId)
        if (acknowledged.size >= enough) reached()
      } catch {
        return
      }
    }
  }
  const done = Promise.all(Array.from({ length: 8 }, sender)).finally(reached)
  return { sent, acknowledged, many, done, stop: () => (over = true) }
}

/** How often it is killed; more where a longer run is wanted. */
const ROUNDS = Number(process.env.HERON_KILLS ?? 3)

it(
  'SIGKILL while orders are being sent: every acknowledged order is there once, and no other',
  async () => {
    for (let round = 0; round < ROUNDS; round++) {
      const sending = sendUntilGone(await broker.token(), round, 12 + ((9 * round) % 100))
      try {
        await sending.many
      } finally {
        await broker.end('SIGKILL')
        sending.stop()
      }
      await sending.done
      const { sent, acknowledged } = sending
      expect(acknowledged.size).toBeGreaterThan(10)
      await broker.start()
      const token = await broker.token()
      const get = async <T>(path: string): Promise<T> =>
        (await (
          await fetch(broker.url + path, { headers: { Authorization: `Bearer ${token}` } })
        ).json()) as T
      const orders = (await get<Order[]>('/paper/orders?which=all')).filter((o) =>
        o.clOrdId.startsWith(`kill-${round}-`),
      )
      const entries = orders.filter((o) => o.role === 'Entry')
      for (const [clOrdId, orderId] of acknowledged) {
        expect(entries.filter((o) => o.clOrdId === clOrdId).map((o) => o.orderId)).toEqual([orderId])
      }
      // Nothing stands twice; what stands without an answer had been sent: it reached the disk, its answer was lost.
      expect(new Set(orders.map((o) => o.clOrdId)).size).toBe(orders.length)
      expect(entries.length - acknowledged.size).toBeLessThanOrEqual(8)
      for (const order of entries) expect(sent.has(order.clOrdId)).toBe(true)
      const reports = await get<ExecutionReport[]>('/paper/executions?limit=10000')
      expect(reports.map((r) => r.seq)).toEqual(reports.map((_, i) => i + 1))
      // A request repeated after the restart, for want of an answer, doubles nothing.
      const [first] = acknowledged.keys()
      const again = await fetch(`${broker.url}/paper/orders`, {
        method: 'POST',
        headers: { Authorization: `Bearer ${token}`, 'Content-Type': 'application/json' },
        body: JSON.stringify({
          clOrdId: first,
          symbol: 'OSPRY',
          side: 'Buy',
          orderQty: 1,
          ordType: 'Market',
        }),
      })
      expect(again.status).toBe(409)
    }
  },
  120_000 + 15_000 * ROUNDS,
)

it('a second broker does not write to the same data folder', async () => {
  const other = new BrokerProcess(dir.path, await freePort())
  await expect(other.start()).rejects.toThrow('uses this data folder')
})

it('a port in use gives a clear message', async () => {
  const elsewhere = await tempDir()
  const other = new BrokerProcess(elsewhere.path, broker.port)
  await other.start().catch(() => undefined)
  expect(await other.gone()).toBe(98)
  expect(other.said).toContain(`port ${broker.port} is in use. Choose another with HERON_BROKER_PORT`)
  await other.end()
  await elsewhere.remove()
})
