import { spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { freePort } from '../tests/process'
import { type Line, lineOf } from './measure'

/** How long each of `n` requests takes, one after another, in milliseconds; all must succeed. */
async function timeRequests(n: number, send: (i: number) => Promise<Response>): Promise<number[]> {
  const times: number[] = []
  for (let i = 0; i < n + 20; i++) {
    const began = performance.now()
    const answer = await send(i)
    await answer.arrayBuffer()
    if (!answer.ok) throw new Error(`${answer.url} answered ${answer.status}`)
    if (i >= 20) times.push(performance.now() - began)
  }
  return times
}

/**
 * From a token in hand to the acknowledgement of an order that is on the disk, over loopback, against a bare
 * answer of the same server.
 */
export async function benchOrder(): Promise<Line[]> {
  const dataDir = mkdtempSync(join(tmpdir(), 'heron-bench-'))
  const port = await freePort()
  const url = `http://127.0.0.1:${port}`
  const broker = spawn(process.execPath, ['--import', 'tsx', 'broker/main.ts'], {
    env: { ...process.env, HERON_DATA: dataDir, HERON_BROKER_PORT: String(port) },
    stdio: 'ignore',
  })
  try {
    for (let tries = 0; ; tries++) {
      if (
        await fetch(`${url}/health`).then(
          (a) => a.ok,
          () => false,
        )
      )
        break
      if (tries > 300) throw new Error('The broker did not start')
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
    const { keyId, secret } = JSON.parse(
      readFileSync(join(dataDir, 'broker', 'paper-key.json'), 'utf8'),
    ) as Record<string, string>
    const token = await fetch(`${url}/paper/token`, {
      method: 'POST',
      headers: { Authorization: `Basic ${Buffer.from(`${keyId}:${secret}`).toString('base64')}` },
      body: new URLSearchParams({ grant_type: 'client_credentials' }),
    })
    const { access_token } = (await token.json()) as { access_token: string }
    const headers = { Authorization: `Bearer ${access_token}`, 'Content-Type': 'application/json' }
    const bare = lineOf(
      'bare answer of the broker over loopback',
      await timeRequests(300, () => fetch(`${url}/health`)),
      'ms',
      undefined,
    )
    const order = (i: number) =>
      fetch(`${url}/paper/orders`, {
        method: 'POST',
        headers,
        body: JSON.stringify({
          clOrdId: `bench-${i}`,
          symbol: 'OSPRY',
          side: 'Buy',
          orderQty: 1,
          ordType: 'Limit',
          price: 1.5,
        }),
      })
    return [
      bare,
      lineOf(
        'order from token to acknowledgement, on disk, over loopback',
        await timeRequests(300, order),
        'ms',
        bare,
      ),
    ]
  } finally {
    const gone = new Promise((resolve) => broker.once('exit', resolve))
    broker.kill('SIGTERM')
    await gone
    rmSync(dataDir, { recursive: true, force: true })
  }
}
