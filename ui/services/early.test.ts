import { runInNewContext } from 'node:vm'
import { afterEach, describe, expect, it } from '@jest/globals'
import { Access, Broker } from '@/client'
import { demoTokens } from './demoTokens'
import { earlyAnswer, earlyScript, earlyToken } from './early'

const URL = 'http://127.0.0.1:9</script>'
const json = (value: unknown, status = 200) => new Response(JSON.stringify(value), { status })

/** Runs the script as the head of a page does, against a server that answers as told. */
function inHead(answer: (path: string, init: RequestInit) => Response): string[] {
  const asked: string[] = []
  const window = {}
  const fetch = (path: string, init: RequestInit) => {
    asked.push(`${path} ${JSON.stringify(init.headers)}`)
    return Promise.resolve(answer(path, init))
  }
  runInNewContext(earlyScript(URL), { window, fetch, indexedDB: {} })
  Object.assign(globalThis, { window })
  return asked
}

afterEach(() => void delete (globalThis as { window?: unknown }).window)

describe('what is asked for while the page is read', () => {
  it('is a token, and with it what every screen waits for; each is taken once', async () => {
    const asked = inHead((path) =>
      path === '/api/demo/token'
        ? json({ access_token: 'early', expires_in: 900, keyId: 'k' })
        : json([path.slice(`${URL}/paper`.length)]),
    )
    const broker = new Broker(new Access(URL, demoTokens), earlyAnswer)
    expect(await broker.access.token()).toBe('early')
    expect(await earlyToken()).toBeUndefined()
    expect(await (await earlyAnswer('/venues'))!.json()).toEqual(['/venues'])
    expect(await earlyAnswer('/venues')).toBeUndefined()
    expect(await earlyAnswer('/orders')).toBeUndefined()
    expect(asked).toEqual([
      '/api/demo/token {"X-Fleet-Heron":"page"}',
      `${URL}/paper/securities {"Authorization":"Bearer early"}`,
      `${URL}/paper/venues {"Authorization":"Bearer early"}`,
    ])
  })

  it('that did not come is asked for again in the usual way', async () => {
    inHead(() => json({}, 503))
    expect(await earlyToken()).toBeUndefined()
    expect(await earlyAnswer('/securities')).toBeUndefined()
  })

  it('cannot end the script that it stands in', () => {
    expect(earlyScript(URL)).not.toContain('</')
  })
})
