import * as z from 'zod'
import { EventSourceParserStream } from 'eventsource-parser/stream'

/** Whoever asks the broker with a token. */
interface Asks {
  /** Changes with world and key. */
  access: unknown
  fetch(path: string, init?: RequestInit): Promise<Response>
}

const Opened = z.object({ id: z.string() })
const Piece = z.object({ of: z.string(), text: z.string() })
const Over = z.object({ of: z.string() })

interface Carrier {
  id: string
  carried: Map<string, ReadableStreamDefaultController<Uint8Array>>
  end(): void
}

/**
 * The streams of a broker over one connection: a browser holds six open to one host, of all its tabs together, and lets everything
 * else wait. Each is read as if it came alone.
 */
export class Together {
  private carrier: { access: unknown; opens: Promise<Carrier> } | undefined
  private opened = 0
  private readonly encoder = new TextEncoder()

  constructor(private readonly broker: Asks) {}

  /** Opens a stream. Throws BrokerProblem where the broker refuses it, or cannot be reached. */
  async open(
    path: string,
    { signal, lastEventId }: { signal: AbortSignal; lastEventId?: string },
  ): Promise<ReadableStream<Uint8Array>> {
    const carrier = await this.carrierNow()
    const of = String(++this.opened)
    const stream = new ReadableStream<Uint8Array>({
      start: (controller) => void carrier.carried.set(of, controller),
    })
    const end = () => this.takeOff(carrier, of)
    try {
      await this.broker.fetch(`/streams/${carrier.id}`, {
        ...{ method: 'POST', signal },
        body: JSON.stringify({ of, path, ...(lastEventId === undefined ? {} : { lastEventId }) }),
      })
    } catch (error) {
      forget(carrier, of)
      throw error
    }
    if (signal.aborted) end()
    else signal.addEventListener('abort', end, { once: true })
    return stream
  }

  /** The connection that is open, in the world and with the key of now; else a new one. */
  private carrierNow(): Promise<Carrier> {
    const { access } = this.broker
    if (this.carrier && this.carrier.access === access) return this.carrier.opens
    const ended = new AbortController()
    const opens = this.connect(ended)
    const carrier = { access, opens }
    this.carrier = carrier
    const over = () => {
      if (this.carrier === carrier) this.carrier = undefined
    }
    ended.signal.addEventListener('abort', over)
    opens.catch(over)
    return opens
  }

  /** Opens a connection; it is aborted once it is over, however it ends. */
  private async connect(ended: AbortController): Promise<Carrier> {
    const answer = await this.broker.fetch('/streams', { signal: ended.signal })
    const reader = answer
      .body!.pipeThrough(new TextDecoderStream() as unknown as ReadableWritablePair<string, Uint8Array>)
      .pipeThrough(new EventSourceParserStream())
      .getReader()
    const { value } = await reader.read()
    const { id } = Opened.parse(JSON.parse(value?.data ?? '{}'))
    const carried: Carrier['carried'] = new Map()
    void this.read(carried, reader).finally(() => ended.abort())
    return { id, carried, end: () => ended.abort() }
  }

  /** Hands on what comes until the connection breaks: then all that it carries break off. */
  private async read(
    carried: Carrier['carried'],
    reader: ReadableStreamDefaultReader<{ event?: string; data: string }>,
  ): Promise<void> {
    let why: unknown
    try {
      for (;;) {
        const { done, value } = await reader.read()
        if (done) break
        if (value.event === 'piece') {
          const { of, text } = Piece.parse(JSON.parse(value.data))
          carried.get(of)?.enqueue(this.encoder.encode(text))
        } else if (value.event === 'over') {
          const { of } = Over.parse(JSON.parse(value.data))
          carried.get(of)?.close()
          carried.delete(of)
        }
      }
    } catch (error) {
      why = error
    }
    for (const controller of carried.values()) {
      if (why === undefined) controller.close()
      else controller.error(why)
    }
    carried.clear()
  }

  /** Ends one; with the last of them the connection is closed. */
  private takeOff(carrier: Carrier, of: string): void {
    const controller = carrier.carried.get(of)
    if (!controller) return
    controller.error(new DOMException('It is followed no more.', 'AbortError'))
    if (forget(carrier, of)) return
    this.broker.fetch(`/streams/${carrier.id}/${of}`, { method: 'DELETE' }).catch(() => {
      // The connection is gone by now, and the stream with it.
    })
  }
}

/** Takes one away; true where it was the last, so that the connection is closed. */
function forget({ carried, end }: Carrier, of: string): boolean {
  carried.delete(of)
  if (carried.size > 0) return false
  end()
  return true
}
