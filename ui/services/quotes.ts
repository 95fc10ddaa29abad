import * as z from 'zod'
import { type Broker, follow } from '@/client'
import { Clock, type Quote, QuoteTick } from '@/core/market/wire'
import { useLink } from '../link/useLink'
import { brokerAway, brokerThere } from './link'

const Opened = z.object({ id: z.string() })
const Ticks = z.array(QuoteTick)

/** How long the set of watched symbols is given to settle, so that a screen that opens changes it once. */
const SETTLE = 60

/** Prices change on the screen at most this often, in real milliseconds, however fast they come. */
const DRAWN_EVERY = 400

type Listener = (tick: QuoteTick) => void

/**
 * The quotes of everything that anyone on the page watches, over one stream. The set of watched symbols grows and
 * shrinks without the stream being closed: the broker is told the new set under the stream's id. What screens show
 * is in `useLink`; each tick is handed to those who follow a symbol, none left out.
 */
export class Quotes {
  private readonly watched = new Map<string, number>()
  private readonly listeners = new Map<string, Set<Listener>>()
  private stream: string | undefined
  private lastAsked = ''
  private timer: ReturnType<typeof setTimeout> | undefined
  private stop: (() => void) | undefined
  /** The latest of each symbol that is not on the screen yet. */
  private undrawn: Record<string, Quote> = {}
  private drawnAt = -Infinity
  private drawing: ReturnType<typeof setTimeout> | undefined

  constructor(private readonly broker: Broker) {}

  /** Opens the stream; it is taken up again by itself when it drops, until `end`. */
  start(): void {
    this.stop ??= follow(this.broker, '/quotes/stream?symbols=', {
      event: ({ event, data }) => this.heard(event, data),
      there: brokerThere,
      away: (error) => {
        this.stream = undefined
        brokerAway(error)
      },
    })
  }

  end(): void {
    clearTimeout(this.timer)
    clearTimeout(this.drawing)
    this.drawing = undefined
    this.stop?.()
    this.stop = this.stream = undefined
  }

  /** Watches symbols until the function that is given back is called. */
  watch(symbols: readonly string[]): () => void {
    this.count(symbols, 1)
    return () => this.count(symbols, -1)
  }

  /** Hands every tick of a symbol to a listener, and watches it meanwhile. */
  listen(symbol: string, listener: Listener): () => void {
    const all = this.listeners.get(symbol) ?? new Set()
    this.listeners.set(symbol, all.add(listener))
    const unwatch = this.watch([symbol])
    return () => {
      all.delete(listener)
      unwatch()
    }
  }

  private count(symbols: readonly string[], by: number): void {
    for (const symbol of symbols) {
      const n = (this.watched.get(symbol) ?? 0) + by
      if (n > 0) this.watched.set(symbol, n)
      else this.watched.delete(symbol)
    }
    clearTimeout(this.timer)
    this.timer = setTimeout(() => void this.tell(), SETTLE)
  }

  /** Tells the broker what is watched, where it does not know yet. */
  private async tell(): Promise<void> {
    const { stream } = this
    const symbols = [...this.watched.keys()].sort()
    const text = `${stream} ${symbols.join()}`
    if (stream === undefined || text === this.lastAsked) return
    this.lastAsked = text
    // A stream that is gone is opened anew by itself, and told then.
    await this.broker.followQuotes(stream, symbols).catch(() => (this.lastAsked = ''))
  }

  private heard(event: string, data: string): void {
    if (event === 'stream') {
      this.stream = Opened.parse(JSON.parse(data)).id
      void this.tell()
    } else if (event === 'clock') {
      useLink.setState({ clock: Clock.parse(JSON.parse(data)), heardAt: Date.now() })
    } else if (event === 'quotes') this.take(Ticks.parse(JSON.parse(data)))
  }

  private take(ticks: readonly QuoteTick[]): void {
    for (const { since: _, ...quote } of ticks) this.undrawn[quote.symbol] = quote
    const known = useLink.getState().quotes
    const wait = DRAWN_EVERY - (performance.now() - this.drawnAt)
    // A first quote is waited for.
    if (wait <= 0 || ticks.some(({ symbol }) => !(symbol in known))) this.draw()
    else this.drawing ??= setTimeout(() => this.draw(), wait)
    for (const tick of ticks) for (const listener of this.listeners.get(tick.symbol) ?? []) listener(tick)
  }

  private draw(): void {
    clearTimeout(this.drawing)
    this.drawing = undefined
    this.drawnAt = performance.now()
    const { undrawn } = this
    this.undrawn = {}
    useLink.setState(({ quotes }) => ({ quotes: { ...quotes, ...undrawn }, heardAt: Date.now() }))
  }
}
