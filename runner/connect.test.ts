import { expect, it } from '@jest/globals'
import { clientIn, type Desk, deskFor, order, Wall } from '@/tests/broker'
import { type ExecutionReport } from '@/core/orders/model'
import { knownAccount, RecordsDiffer } from './connect'

const wall = new Wall()
let desk: Desk
deskFor(wall, (opened) => (desk = opened))

/** Six fills of one security, so that there are reports to swap. */
async function traded(): Promise<void> {
  for (let i = 0; i < 6; i++) await desk.send(order(`swap-${i}`, { orderQty: 5 }))
  await desk.run(wall, 5)
}

it('puts reports that come in another order into that of their numbers', async () => {
  await traded()
  const client = clientIn(desk)
  const plain = await client.executions()
  const swapped = [...plain]
  ;[swapped[2], swapped[5]] = [swapped[5], swapped[2]]
  // The answer of the broker itself, only in another order.
  const { fetch } = client
  client.fetch = async (path, ...rest) => {
    const answer = await fetch.call(client, path, ...rest)
    return path.includes('/executions?after=0&') ? Response.json(swapped) : answer
  }
  expect(await client.executions()).toEqual(plain)
  const { shared, reports } = await knownAccount(client, [])
  expect(reports).toEqual(plain)
  expect(shared.book.holdings.OSPRY.quantity).toBe(30)
})

it('asks again for a report that is missing, and says which one and what to do if it never comes', async () => {
  const client = clientIn(desk)
  const plain = await client.executions()
  const { executions } = client
  let times = 0
  const without = (page: ExecutionReport[], seq: number) => page.filter((report) => report.seq !== seq)
  client.executions = async (after, limit) => {
    const page = await executions(after, limit)
    return ++times <= 2 ? without(page, 4) : page
  }
  expect((await knownAccount(client, [])).reports).toEqual(plain)
  client.executions = async (after, limit) => without(await executions(after, limit), 4)
  const failed = await knownAccount(client, []).catch((error: unknown) => error as Error)
  expect(failed).toBeInstanceOf(RecordsDiffer)
  expect((failed as Error).message).toMatch(
    /number 4 was missing while number 5 was there.*GET \/executions\?after=3/,
  )
})

it('says what was compared and what differs if positions and reports contradict each other', async () => {
  const client = clientIn(desk)
  const { positions } = client
  client.positions = async () => (await positions()).map((one) => ({ ...one, quantity: 29 }))
  await expect(knownAccount(client, [])).rejects.toThrow(
    /execution reports .* compared with its positions\. By the reports it holds 30 OSPRY; by the positions it holds 29/,
  )
})
