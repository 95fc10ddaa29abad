import { type Context } from 'hono'
import { streamSSE, type SSEStreamingApi } from 'hono/streaming'
import { type World } from '../world'
import { type Env, remoteOf } from './access'

/** A comment line this often, in real milliseconds, so that both ends notice a broken connection. */
export const HEARTBEAT = 5_000

/** What changes within so many real milliseconds of what was sent is sent together: with many readers each writing costs. */
const TOGETHER = 60

const pause = (milliseconds: number) =>
  new Promise<void>((resolve) => void setTimeout(resolve, milliseconds).unref())

/**
 * Runs `send` once, then after each change of the world or when woken, one at a time. The stream ends when its reader leaves,
 * its key is no longer valid or its world is gone; a comment line says why. Throws Problem if the key has too many streams.
 */
export function following(
  c: Context<Env>,
  world: World,
  send: (stream: SSEStreamingApi) => Promise<boolean | void>,
  on: { begin?(wake: () => void): void; end?(): void } = {},
): Response {
  const { streams, bearer } = c.var
  streams.check(bearer.keyId)
  return streamSSE(c, async (stream) => {
    let awake: () => void = () => undefined
    let changed = true
    let over: string | undefined
    const wake = () => {
      changed = true
      awake()
    }
    const stopListening = world.listen(wake)
    const end = (why: string) => {
      over ??= why
      awake()
    }
    const leave = streams.add({ world, bearer, remote: remoteOf(c), end })
    on.begin?.(wake)
    stream.onAbort(() => {
      stopListening()
      leave()
      awake()
    })
    let heard = Date.now()
    let last = 0
    try {
      while (over === undefined && !stream.aborted && !stream.closed) {
        if (changed) {
          const early = TOGETHER - (performance.now() - last)
          if (early > 0) await pause(early)
          // A world that is being put back has nothing to tell.
          await world.steady()
          if (over !== undefined || world.isClosed) break
          changed = false
          // There may be more than is sent at once.
          const more = await send(stream)
          last = more ? 0 : performance.now()
          if (more) changed = true
        }
        if (Date.now() - heard > HEARTBEAT) {
          heard = Date.now()
          await stream.write(': still here\n\n')
        }
        if (!changed && over === undefined) {
          await new Promise<void>((resolve) => {
            const timer = setTimeout(resolve, HEARTBEAT).unref()
            awake = () => {
              clearTimeout(timer)
              resolve()
            }
          })
        }
      }
      if (over !== undefined) await stream.write(`: over: ${over}\n\n`)
    } finally {
      stopListening()
      leave()
      on.end?.()
    }
  })
}
