import { describe, expect, it } from '@jest/globals'
import { createServer, type Server } from 'node:net'
import { run } from '@/tests/process'

const listen = (): Promise<{ server: Server; port: number }> =>
  new Promise((resolve) => {
    const server = createServer().listen(0, '127.0.0.1', () =>
      resolve({ server, port: (server.address() as { port: number }).port }),
    )
  })

const demo = (env: Record<string, string>) => run(process.execPath, ['scripts/demo.mjs'], { env })

describe('npm run demo', () => {
  it('says which port is in use and how to choose another', async () => {
    const { server, port } = await listen()
    const { code, err } = await demo({ PORT: String(port) })
    server.close()
    expect(code).toBe(98)
    expect(err).toContain(`Port ${port} is in use`)
    expect(err).toContain(`PORT=${port + 100} npm run demo`)
  })

  it('says so too where it is the broker’s', async () => {
    const { server, port } = await listen()
    const { code, err } = await demo({ PORT: '45123', HERON_BROKER_PORT: String(port) })
    server.close()
    expect([code, err.includes(`HERON_BROKER_PORT=${port + 100}`)]).toEqual([98, true])
  })

  it.each(['no', '0', '70000', '80.5'])('PORT=%s is no port', async (port) => {
    const { code, err } = await demo({ PORT: port })
    expect([code, err.includes('is not a port')]).toEqual([2, true])
  })
})
