import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { monitorEventLoopDelay } from 'node:perf_hooks'
import { makeApp } from '../broker/api/app'
import { Tokens } from '../broker/keys/tokens'
import { Worlds } from '../broker/worlds'
import { type Line, lineOf } from './measure'

const RUNS = 9

/**
 * How long everyone else waits at the most while the broker makes a long answer: the longest turn of its event loop,
 * against that of a short answer. The first answer of each path is counted too, when nothing is remembered yet.
 */
export async function benchBlock(): Promise<Line[]> {
  const dir = mkdtempSync(join(tmpdir(), 'heron-bench-'))
  const worlds = await Worlds.open({ dataDir: dir, seed: 'estuary', start: '2026-03-16T10:42:00-03:00' })
  try {
    const tokens = await Tokens.open(join(dir, 'token.key'), 900, Date.now)
    const app = makeApp({ worlds, tokens })
    const { key, secret } = await worlds.paper.ring.create({ scopes: ['see-market'], label: 'bench' })
    const { access_token } = (await (
      await app.request('/paper/token', {
        method: 'POST',
        headers: { Authorization: `Basic ${Buffer.from(`${key.keyId}:${secret}`).toString('base64')}` },
        body: new URLSearchParams({ grant_type: 'client_credentials' }),
      })
    ).json()) as { access_token: string }
    const blocks = async (path: string): Promise<number[]> => {
      const times: number[] = []
      for (let i = 0; i < RUNS; i++) {
        const turns = monitorEventLoopDelay({ resolution: 1 })
        turns.enable()
        const answer = await app.request(path, { headers: { Authorization: `Bearer ${access_token}` } })
        await answer.arrayBuffer()
        // A turn is counted at its end, so the loop must come round once more.
        await new Promise((resolve) => setTimeout(resolve, 5))
        turns.disable()
        if (!answer.ok) throw new Error(`${path} answered ${answer.status}`)
        times.push(turns.max / 1e6)
      }
      return times
    }
    const hundred = worlds.markets.listing.slice(0, 100).map(({ symbol }) => symbol)
    const one = '/paper/securities/OSPRY/bars?every=1%20min'
    const short = lineOf('longest block, 100 bars', await blocks(`${one}&limit=100`), 'ms', undefined)
    const lines = [short]
    for (const [name, path] of [
      ['50,000 bars as JSON', `${one}&limit=50000`],
      ['50,000 bars as CSV', `${one}&limit=50000&format=csv`],
      [
        '100 securities named twice, 2,000 minutes each',
        `/paper/bars?every=1%20min&limit=2000&symbols=${[...hundred, ...hundred].join(',')}`,
      ],
    ])
      lines.push(lineOf(`longest block, ${name}`, await blocks(path), 'ms', short))
    return lines
  } finally {
    await worlds.close()
    rmSync(dir, { recursive: true, force: true })
  }
}
