import { describe, expect, it } from '@jest/globals'
import { type Order } from '@/core/orders/model'
import { processFor } from '@/tests/broker'
import { type BrokerProcess, run } from '@/tests/process'

let broker: BrokerProcess
processFor((running) => (broker = running))

let token = ''
async function get<T>(path: string): Promise<T> {
  token ||= await broker.token()
  const answer = await fetch(broker.url + path, {
    headers: { Authorization: `Bearer ${token}` },
  })
  return (await answer.json()) as T
}
const orders = () => get<Order[]>('/paper/orders?which=all')

/** Securities whose averages crossed on the last bar, found apart from the scripts. */
let crossed: Promise<string[]> | undefined
const crossings = () => (crossed ??= findCrossings())

async function findCrossings(): Promise<string[]> {
  const found: string[] = []
  for (const { symbol, orderable } of await get<{ symbol: string; orderable: boolean }[]>(
    '/paper/securities',
  )) {
    if (!orderable) continue
    const { bars } = await get<{ bars: { close: number }[] }>(
      `/paper/securities/${symbol}/bars?every=1%20day&limit=34`,
    )
    const mean = (n: number, skip: number) => {
      const part = bars.slice(bars.length - n - skip, bars.length - skip)
      return part.reduce((sum, bar) => sum + bar.close, 0) / n
    }
    if (mean(9, 1) <= mean(33, 1) && mean(9, 0) > mean(33, 0)) found.push(symbol)
  }
  return found
}

const SCRIPTS = [
  ['Python', 'python3', ['clients/python/crossing.py']],
  ['TypeScript', process.execPath, ['--import', 'tsx', 'clients/typescript/crossing.ts']],
] as const

describe.each(SCRIPTS)('the %s script', (name, command, script) => {
  const crossing = (...args: string[]) =>
    run(command, [...script, '--broker', broker.url, '--key-file', broker.keyFile, ...args])

  it('prints what it would send, and sends nothing', async () => {
    const before = (await orders()).length
    const { code, out } = await crossing()
    const [first] = await crossings()
    expect(code).toBe(0)
    expect(out).toContain(`${first}: the 9-day average`)
    expect(out).toContain('"percent": 7')
    expect(out).toContain('Dry run: nothing was sent')
    expect(await orders()).toHaveLength(before)
  })

  it('with --send places the order, follows it to the fill and prints the outcome; run again it orders nothing', async () => {
    const at = SCRIPTS.findIndex(([n]) => n === name)
    const symbol = (await crossings())[at]
    const { code, out } = await crossing(symbol, '--send')
    expect([code, out.includes('outcome: Filled')]).toEqual([0, true])
    expect(out).toMatch(/acknowledged: O\d+ New/)
    expect(out).toMatch(/Stop [\d.]+: New, held at the broker/)
    const placed = (await orders()).filter((o) => o.symbol === symbol)
    expect(placed.map((o) => o.role).sort()).toEqual(['Entry', 'Stop', 'Target'])
    const again = await crossing(symbol, '--send')
    expect([again.code, again.out.includes('was ordered before')]).toEqual([0, true])
    expect((await orders()).filter((o) => o.symbol === symbol)).toHaveLength(3)
  })

  it('says in words when the key is wrong or the broker is not there', async () => {
    const wrong = await run(command, [...script, '--broker', broker.url, 'OSPRY'], {
      env: { HERON_KEY_ID: 'paper-none', HERON_SECRET: 'x' },
    })
    expect(wrong.code).toBe(1)
    expect(wrong.err).toContain('Unknown key')
    const gone = await run(command, [
      ...script,
      '--broker',
      'http://127.0.0.1:9',
      '--key-file',
      broker.keyFile,
    ])
    expect(gone.err).toMatch(/[Tt]he broker does not answer/)
  })
})
