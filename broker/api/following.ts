import { type Context } from 'hono'
import { streamSSE, type SSEStreamingApi } from 'hono/streaming'
import { type World } from '../world'

/** A comment line this often, in real milliseconds, so that both ends notice a broken connection. */
const HEARTBEAT = 5_000

/** What changes within so many real milliseconds of what was sent is sent together: with many readers each writing costs. */
const TOGETHER = 60

const pause = (milliseconds: number) =>
  new Promise<void>((resolve) => void setTimeout(resolve, milliseconds).unref())

/** Runs `send` once and then after each change of the world, or when woken, one at a time, until the reader goes away. */
export function following(
  c: Context,
  world: World,
  send: (stream: SSEStreamingApi) => Promise<boolean | void>,
  on: { begin?(wake: () => void): void; end?(): void } = {},
): Response {
  return streamSSE(c, async (stream) => {
    let awake: () => void = () => undefined
    let changed = true
    const wake = () => {
      changed = true
      awake()
    }
    const stop = world.listen(wake)
    on.begin?.(wake)
    stream.onAbort(() => {
      stop()
      awake()
    })
    let heard = Date.now()
    let last = 0
    try {
      while (!stream.aborted && !stream.closed) {
        if (changed) {
          const early = TOGETHER - (performance.now() - last)
          if (early > 0) await pause(early)
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
        if (!changed) {
          await new Promise<void>((resolve) => {
            const timer = setTimeout(resolve, HEARTBEAT).unref()
            awake = () => {
              clearTimeout(timer)
              resolve()
            }
          })
        }
      }
    } finally {
      stop()
      on.end?.()
    }
  })
}
