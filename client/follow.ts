import { EventSourceParserStream } from 'eventsource-parser/stream'
import { type Broker } from './broker'

/** A stream is taken for dropped when nothing, not even a heartbeat, came for so long. */
const SILENCE = 15_000

export interface StreamEvent {
  event: string
  data: string
  id?: string
}

/** Waits so many milliseconds, or until it is stopped: a wait that nobody needs keeps no process alive. */
const pause = (wait: number, stopped: AbortSignal): Promise<void> =>
  new Promise((resolve) => {
    const timer = setTimeout(over, wait)
    function over() {
      clearTimeout(timer)
      stopped.removeEventListener('abort', over)
      resolve()
    }
    stopped.addEventListener('abort', over)
  })

/**
 * Follows server-sent events until stopped. A dropped stream is taken up again after the last event that came
 * (Last-Event-ID), a little later each time, at most every 5 seconds. The token travels as a header, which the
 * browser's own EventSource cannot send.
 */
export function follow(
  broker: Broker,
  path: string,
  on: { event(event: StreamEvent): void; there(): void; away(error: unknown): void },
  lastId?: string,
): () => void {
  const stopped = new AbortController()
  let last = lastId
  void (async () => {
    let wait = 250
    while (!stopped.signal.aborted) {
      const broken = new AbortController()
      const abort = () => broken.abort()
      stopped.signal.addEventListener('abort', abort)
      let silence: ReturnType<typeof setTimeout> | undefined
      const heard = () => {
        clearTimeout(silence)
        silence = setTimeout(abort, SILENCE)
      }
      try {
        const body = await broker.stream(path, { signal: broken.signal, lastEventId: last })
        on.there()
        wait = 250
        heard()
        const watched = body.pipeThrough(
          new TransformStream<Uint8Array, Uint8Array>({
            transform(chunk, out) {
              heard()
              out.enqueue(chunk)
            },
          }),
        )
        const reader = watched
          .pipeThrough(new TextDecoderStream() as unknown as ReadableWritablePair<string, Uint8Array>)
          .pipeThrough(new EventSourceParserStream())
          .getReader()
        for (;;) {
          const { done, value } = await reader.read()
          if (done) break
          if (value.id !== undefined) last = value.id
          on.event({ event: value.event ?? 'message', data: value.data, id: value.id })
        }
        on.away(undefined)
      } catch (error) {
        if (!stopped.signal.aborted) on.away(error)
      } finally {
        clearTimeout(silence)
        stopped.signal.removeEventListener('abort', abort)
      }
      if (stopped.signal.aborted) return
      await pause(wait, stopped.signal)
      wait = Math.min(5_000, wait * 2)
    }
  })()
  return () => stopped.abort()
}
