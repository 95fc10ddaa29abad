import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals'
import { type Broker } from '@/client'
import { useLink } from '../link/useLink'
import { Quotes } from './quotes'

/** A broker whose stream the test writes, and what it was told to follow. */
function streaming() {
  const told: [string, string[]][] = []
  let write: (text: string) => void = () => undefined
  let opened = 0
  const broker = {
    stream: (path: string, { signal }: { signal?: AbortSignal } = {}) => {
      expect(path).toBe('/quotes/stream?symbols=')
      opened++
      const body = new ReadableStream<Uint8Array>({
        start(out) {
          write = (text) => out.enqueue(new TextEncoder().encode(text))
          signal?.addEventListener('abort', () => out.error(new DOMException('gone', 'AbortError')))
        },
      })
      return Promise.resolve(body)
    },
    followQuotes: (id: string, symbols: string[]) => {
      told.push([id, symbols])
      return Promise.resolve()
    },
  } as unknown as Broker
  const say = (event: string, data: unknown) => write(`event: ${event}\ndata: ${JSON.stringify(data)}\n\n`)
  return { broker, told, say, opened: () => opened }
}

const until = async (holds: () => boolean) => {
  while (!holds()) await new Promise((resolve) => setTimeout(resolve, 5))
}
const quote = (symbol: string, last: number) => ({
  ...{ symbol, bid: last, bidSize: 1, ask: last, askSize: 1, last, at: '2026-03-16T10:42:00-03:00' },
})

let quotes: Quotes | undefined
beforeEach(() => useLink.setState({ quotes: {} }))
afterEach(() => {
  quotes?.end()
  jest.restoreAllMocks()
})

describe('the quotes that the page watches', () => {
  it('grow and shrink over one stream, which stays open', async () => {
    const { broker, told, say, opened } = streaming()
    quotes = new Quotes(broker)
    quotes.start()
    const off = quotes.watch(['TARN', 'BECK'])
    await until(() => opened() === 1)
    say('stream', { id: 'one' })
    await until(() => told.length === 1)
    const more = quotes.watch(['BECK', 'RILL'])
    await until(() => told.length === 2)
    off()
    await until(() => told.length === 3)
    // Someone else still looks at BECK.
    expect(told).toEqual([
      ['one', ['BECK', 'TARN']],
      ['one', ['BECK', 'RILL', 'TARN']],
      ['one', ['BECK', 'RILL']],
    ])
    more()
    expect(opened()).toBe(1)
  })

  it('are told to a new stream where the old one dropped', async () => {
    const { broker, told, say, opened } = streaming()
    quotes = new Quotes(broker)
    quotes.start()
    quotes.watch(['TARN'])
    await until(() => opened() === 1)
    say('stream', { id: 'one' })
    await until(() => told.length === 1)
    say('stream', { id: 'two' })
    await until(() => told.length === 2)
    expect(told[1]).toEqual(['two', ['TARN']])
  })

  it('reach everyone who follows a symbol, none left out; what is no quote is not taken', async () => {
    const { broker, say, opened } = streaming()
    quotes = new Quotes(broker)
    quotes.start()
    const heard: number[] = []
    quotes.listen('TARN', (tick) => heard.push(tick.last))
    await until(() => opened() === 1)
    say('quotes', [quote('TARN', 5), quote('BECK', 1), quote('TARN', 6)])
    await until(() => heard.length === 2)
    expect(heard).toEqual([5, 6])
    expect(useLink.getState().quotes.TARN.last).toBe(6)
    say('quotes', [{ symbol: 'TARN', last: 'much' }])
    await until(() => useLink.getState().there !== 'yes' || opened() > 1)
    expect(useLink.getState().quotes.TARN.last).toBe(6)
  })

  it('that come fast are heard one by one, and drawn together a moment later, the last of each', async () => {
    const { broker, say, opened } = streaming()
    quotes = new Quotes(broker)
    quotes.start()
    const heard: number[] = []
    const drawn: number[] = []
    const off = useLink.subscribe((now, before) => {
      if (now.quotes !== before.quotes) drawn.push(now.quotes.TARN.last)
    })
    quotes.listen('TARN', (tick) => heard.push(tick.last))
    await until(() => opened() === 1)
    for (let last = 1; last <= 50; last++) say('quotes', [quote('TARN', last)])
    await until(() => drawn.at(-1) === 50)
    off()
    expect(heard).toEqual(Array.from({ length: 50 }, (_, k) => k + 1))
    // The first quote of a symbol is waited for; how many stand between depends on the machine.
    expect(drawn[0]).toBe(1)
    expect(drawn.length).toBeLessThan(25)
  })
})
