import { chmodSync, copyFileSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { createServer, request, type Server } from 'node:http'
import { type AddressInfo } from 'node:net'
import { join } from 'node:path'
import { describe, expect, it } from '@jest/globals'
import { makeClient } from '@/scripts/clients.mjs'
import { readCsv } from '@/core/formats/csv'
import { type ExecutionReport, type Order } from '@/core/orders/model'
import { processFor } from '@/tests/broker'
import { heron } from '@/tests/command'
import { type BrokerProcess, run } from '@/tests/process'

let broker: BrokerProcess
let dir: string
processFor((running, folder) => {
  broker = running
  dir = folder
})

let token = ''
async function ask<T>(method: string, path: string, body?: unknown): Promise<T> {
  token ||= await broker.token()
  const answer = await fetch(broker.url + path, {
    method,
    headers: { Authorization: `Bearer ${token}`, 'Content-Type': 'application/json' },
    body: body === undefined ? undefined : JSON.stringify(body),
  })
  return (await answer.json()) as T
}
const order = (id: string) => ask<Order>('GET', `/paper/orders/${id}`)
const orders = (query = '') => ask<Order[]>('GET', `/paper/orders?${query}`)

const common = (url = broker.url) => ['--broker', url, '--key-file', broker.keyFile]
const python = (script: string, ...args: string[]) =>
  run('python3', [`clients/python/${script}`, ...args, ...common()])

describe('the Python examples', () => {
  it('breakout: one entry a day, whatever became of the first', async () => {
    const dry = await python('breakout.py', 'OSPRY')
    expect([dry.code, dry.out.includes('nothing was sent')]).toEqual([0, true])
    const first = await python('breakout.py', 'OSPRY', '--send')
    expect(first.out).toContain('rests above')
    const sent = (await orders('clOrdIdBegins=breakout-OSPRY')).find((one) => one.role === 'Entry')!
    expect(sent).toMatchObject({ ordType: 'Stop', exits: { target: { risk: 2 } } })
    await ask('DELETE', `/paper/orders/${sent.clOrdId}`)
    const again = await python('breakout.py', 'OSPRY', '--send')
    expect(again.out).toContain(`${sent.clOrdId} Canceled`)
    expect((await orders('clOrdIdBegins=breakout-OSPRY')).filter((o) => o.role === 'Entry')).toHaveLength(1)
  })

  it('pair: both legs or neither; closed together', async () => {
    const both = await python('pair.py', 'OSPRY', 'GANET', '--money', '2000', '--send')
    expect(both.code).toBe(0)
    const legs = await orders('text=pair%20OSPRY/GANET')
    expect(legs.map((leg) => leg.side).sort()).toEqual(['Buy', 'SellShort'])
    const refused = await python('pair.py', 'OSPRY', 'NOSUCH', '--money', '2000', '--send')
    expect(refused.code).not.toBe(0)
    expect(await orders('symbol=NOSUCH')).toEqual([])
  })

  it('four legs: one order for one net credit, checked first; refused in words without the level', async () => {
    const without = await python('four_legs.py', 'GANET', '--send')
    expect([without.code, without.out.includes('needs option level 3')]).toEqual([3, true])
    await ask('POST', '/paper/accounts', {
      ...{ account: 'SPREADS', cash: 20_000, currency: 'USD', margin: true, optionLevel: 3 },
    })
    const dry = await python('four_legs.py', 'GANET', '--account', 'SPREADS')
    expect([dry.code, dry.out.includes('nothing was sent')]).toEqual([0, true])
    const sent = await python('four_legs.py', 'GANET', '--account', 'SPREADS', '--credit', '0.5', '--send')
    expect(sent.out).toMatch(/four-legs-GANET-2026-03-16-\S+ New, keeps \d+/)
    const [placed] = await orders('account=SPREADS')
    expect(placed.legs!.map(({ legSide }) => legSide)).toEqual(['Buy', 'SellShort', 'SellShort', 'Buy'])
    const again = await python('four_legs.py', 'GANET', '--account', 'SPREADS', '--credit', '0.5', '--send')
    expect(again.code).toBe(3)
  })

  it('the client in one file is made of what stands here, and lists orders with Node alone', async () => {
    const made = join(dir, 'made.mjs')
    await makeClient(made)
    expect(readFileSync('clients/typescript/heron.mjs', 'utf8')).toBe(readFileSync(made, 'utf8'))
    const alone = join(dir, 'alone')
    mkdirSync(alone)
    for (const name of ['heron.mjs', 'list_orders.mjs'])
      copyFileSync(`clients/typescript/${name}`, join(alone, name))
    await ask('POST', '/paper/orders', {
      ...{ clOrdId: 'node-1', symbol: 'TERNW', side: 'Buy', orderQty: 5, ordType: 'Limit', price: 1.5 },
    })
    const listed = await run(process.execPath, [
      join(alone, 'list_orders.mjs'),
      '--begins',
      'node-',
      ...common(),
    ])
    expect([listed.err, listed.out]).toEqual([
      expect.stringContaining('in paper'),
      'node-1  Buy 5 TERNW  Limit 1.5  New, 0 filled\n1 orders\n',
    ])
    await ask('DELETE', '/paper/orders/node-1')
  })

  it('lists, changes and cancels; a script that may only look is refused in words', async () => {
    await ask('POST', '/paper/orders', {
      ...{ clOrdId: 'ex-1', symbol: 'TERNW', side: 'Buy', orderQty: 5, ordType: 'Limit', price: 1.5 },
    })
    const listed = await python('list_orders.py', '--begins', 'ex-')
    expect(listed.out).toMatch(/ex-1 .*TERNW {4}Limit 1\.5 {2}New, 0 filled\n1 orders/)
    const change = ['--change', 'ex-1', '--price', '1.4']
    expect((await python('change_and_cancel.py', ...change)).out).toContain('Dry run')
    expect((await order('ex-1')).price).toBe(1.5)
    expect((await python('change_and_cancel.py', ...change, '--send')).out).toContain('ex-1.2 New, was ex-1')
    expect((await order('ex-1.2')).price).toBe(1.4)
    await python('change_and_cancel.py', '--cancel-symbol', 'TERNW', '--send')
    const late = await python('change_and_cancel.py', ...change, '--send')
    expect([late.code, late.out.includes('It stands Canceled')]).toEqual([3, true])
    const { keyId, secret } = await ask<{ keyId: string; secret: string }>('POST', '/paper/keys', {
      ...{ label: 'looks', scopes: ['see-market', 'see-account'] },
    })
    const only = await run('python3', ['clients/python/stand_down.py', '--send', '--broker', broker.url], {
      env: { HERON_KEY_ID: keyId, HERON_SECRET: secret },
    })
    expect(only.err).toContain('may not send orders')
  })

  it('a key file that others can read is not read, and live is not used by mistake', async () => {
    const open = join(dir, 'open.json')
    copyFileSync(broker.keyFile, open)
    chmodSync(open, 0o644)
    for (const [command, args] of [
      ['python3', ['clients/python/list_orders.py']],
      [process.execPath, ['bin/heron.mjs', 'orders']],
    ] as const) {
      const refused = await run(command, [...args, '--broker', broker.url, '--key-file', open])
      expect(refused.err).toMatch(/thers can read .*chmod 600/)
      const live = broker.keyFile.replace('paper-key', 'live-key')
      const mistaken = await run(command, [...args, '--broker', broker.url, '--key-file', live])
      expect(mistaken.err).toContain('is a live key')
      const meant = await run(command, [...args, '--live', '--broker', broker.url, '--key-file', live])
      expect(meant.err).toContain('live, a stand-in')
    }
  })
})

describe('an answer that is lost', () => {
  /** Stands between client and broker, and loses the answers of the first `lose` orders that it passed on. */
  const losing = (lose: number): Promise<Server> =>
    new Promise((ready) => {
      let left = lose
      const proxy = createServer((from, to) => {
        const { method, url: path, headers } = from
        const on = request({ host: '127.0.0.1', port: broker.port, method, path, headers }, (answer) => {
          if (method === 'POST' && path === '/paper/orders' && left-- > 0) {
            answer.resume()
            to.destroy()
            return
          }
          to.writeHead(answer.statusCode!, answer.headers)
          answer.pipe(to)
        })
        from.pipe(on)
      })
      proxy.listen(0, '127.0.0.1', () => ready(proxy))
    })

  it('heron.py sends again under the same id, and the order stands once', async () => {
    const proxy = await losing(2)
    const script = join(dir, 'lost.py')
    writeFileSync(
      script,
      `import sys
sys.path.insert(0, "clients/python")
from heron import Heron
heron = Heron.connect(${JSON.stringify(broker.keyFile)}, "http://127.0.0.1:${(proxy.address() as AddressInfo).port}")
sent = heron.send({"clOrdId": "lost-1", "symbol": "TERNW", "side": "Buy", "orderQty": 3, "ordType": "Limit", "price": 1.5})
print(sent["clOrdId"], sent["ordStatus"])
`,
    )
    const { out, err } = await run('python3', [script])
    proxy.closeAllConnections()
    await new Promise((done) => proxy.close(done))
    expect([out, err.includes('Traceback')]).toEqual(['lost-1 New\n', false])
    expect(await orders('clOrdId=lost-1&which=all')).toHaveLength(1)
  })
})

describe('heron at the command line', () => {
  const ORDER = { clOrdId: 'cli-1', symbol: 'TERNW', side: 'Buy', orderQty: 4, ordType: 'Limit', price: 1.5 }

  it('sends, changes, lists and cancels, each only where that is said', async () => {
    const send = ['send', '--order', JSON.stringify(ORDER), ...common()]
    const dry = await heron(...send)
    expect([dry.code, dry.err.includes('Nothing was sent')]).toEqual([0, true])
    expect(await orders('clOrdId=cli-1')).toEqual([])
    expect(JSON.parse((await heron(...send, '--send')).out)).toMatchObject({ ordStatus: 'New' })
    await heron('replace', 'cli-1', '--price', '1.6', ...common())
    expect((await order('cli-1')).price).toBe(1.5)
    // Far through the market it is asked about, as a new order is.
    const far = await heron('replace', 'cli-1', '--price', '9000', '--send', ...common())
    expect([far.code, far.err]).toEqual([
      1,
      expect.stringMatching(/The limit of 9,000\.00 lies .* beyond the ask/),
    ])
    expect((await order('cli-1')).price).toBe(1.5)
    const changed = await heron('replace', 'cli-1', '--price', '1.6', '--send', ...common())
    expect(JSON.parse(changed.out)).toMatchObject({ clOrdId: 'cli-1.2', price: 1.6 })
    const { columns, rows } = readCsv((await heron('orders', '--begins', 'cli-', ...common())).out)
    expect(rows.map(({ cells }) => cells[columns.indexOf('clOrdId')])).toEqual(['cli-1.2'])
    expect(
      readCsv((await heron('cancel', '--symbol', 'TERNW', ...common())).out).rows.length,
    ).toBeGreaterThan(0)
    expect((await order('cli-1')).ordStatus).toBe('New')
    await heron('cancel', '--symbol', 'TERNW', '--send', ...common())
    expect((await order('cli-1')).ordStatus).toBe('Canceled')
  })

  it('streams every report from the first on, and says who asks', async () => {
    const all = await ask<ExecutionReport[]>('GET', '/paper/executions')
    const { out } = await heron('stream', '--after', '0', '--until', String(all.length), ...common())
    const told = out
      .trim()
      .split('\n')
      .map((line) => (JSON.parse(line) as ExecutionReport).seq)
    expect(told).toEqual(all.map((report) => report.seq))
    const who = await heron('whoami', ...common())
    expect(JSON.parse(who.out)).toMatchObject({ environment: 'paper', standIn: true })
    expect((await heron('positions', ...common())).code).toBe(0)
  })

  it('names what is wrong with an order, and makes ids that can be repeated', async () => {
    const bad = await heron('send', '--order', '{"clOrdId":"x","symbol":"TERNW"}', ...common())
    expect([bad.code, bad.err]).toEqual([2, expect.stringContaining('side: ')])
    const ids = await Promise.all([0, 1].map(() => heron('id', 'my scan', 'OSPRY', '2026-03-16', 'up')))
    expect(ids.map(({ out }) => out)).toEqual([
      'my-scan-OSPRY-2026-03-16-up\n',
      'my-scan-OSPRY-2026-03-16-up\n',
    ])
  })
})
