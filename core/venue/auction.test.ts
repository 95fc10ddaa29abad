import { describe, expect, it } from '@jest/globals'
import { toE4 } from '../market/money'
import { meetAuction } from './auction'
import { meetBar } from './bars'
import { orderOf, workingNow } from './seat'
import { meetSecond } from './trade'
import { seatAt, send, trades } from '@/tests/venue'

const opening = (price: number, volume = 10_000) => ({
  ...{ kind: 'AtTheOpening' as const, priceE4: toE4(price), volume },
})

describe('an auction', () => {
  it('trades at one price, within limits; what is beyond them is canceled with the reason', () => {
    const seat = seatAt({ price: 500_000 })
    const market = send(seat, { timeInForce: 'AtTheOpening' })
    const within = send(seat, { timeInForce: 'AtTheOpening', ordType: 'Limit', price: 50.5 })
    const beyond = send(seat, { timeInForce: 'AtTheOpening', ordType: 'Limit', price: 50.3 })
    const close = send(seat, { timeInForce: 'AtTheClose' })
    meetAuction(seat, 'OSPRY', opening(50.4), 0)
    expect(trades(seat)).toEqual([
      ['Buy', 'Market', 100, 50.4],
      ['Buy', 'Limit', 100, 50.4],
    ])
    const states = [market, within, beyond, close].map((id) => orderOf(seat, id).ordStatus)
    expect(states).toEqual(['Filled', 'Filled', 'Canceled', 'New'])
    expect(orderOf(seat, beyond).text).toBe('the price of the auction was beyond its limit')
  })

  it('gives a fifth of its volume, the oldest order first, and releases exits', () => {
    const seat = seatAt({ price: 500_000 })
    const first = send(seat, { timeInForce: 'AtTheOpening', exits: { stop: { percent: 2 } } })
    const second = send(seat, { timeInForce: 'AtTheOpening' })
    meetAuction(seat, 'OSPRY', opening(50, 700), 0)
    expect(trades(seat).map(([, , quantity]) => quantity)).toEqual([100, 40])
    expect(orderOf(seat, second)).toMatchObject({ ordStatus: 'Canceled', cumQty: 40 })
    const stop = Object.values(seat.book.orders).find((one) => one.parentOrderId === first)!
    expect(stop).toMatchObject({ ordStatus: 'New', stopPx: 49, orderQty: 100 })
  })

  it('an order for it trades neither at a second nor in a bar', () => {
    const seat = seatAt({ price: 500_000 })
    send(seat, { timeInForce: 'AtTheClose' })
    meetBar(seat, 'OSPRY', { open: 500_000, high: 510_000, low: 490_000, close: 500_000, volume: 1e6 }, 0, {
      slipE4: 0,
      share: 1,
    })
    expect(trades(seat)).toEqual([])
  })
})

describe('a stop that trails', () => {
  const second = (seat: ReturnType<typeof seatAt>, id: string, price: number) => {
    const last = toE4(price)
    const shown = { bid: last, ask: last, last, bidSize: 1000, askSize: 1000 }
    return meetSecond(seat, workingNow(seat, id)!, shown, 0, 0)
  }

  it('follows the best price, never back, and is set off at its level', () => {
    const seat = seatAt({ price: 500_000 })
    send(seat, {})
    second(seat, 'O1', 50)
    const id = send(seat, { side: 'Sell', ordType: 'TrailingStop', trail: { amount: 1 } })
    const path = [50.5, 52, 51.2, 51.01].map((price) => {
      second(seat, id, price)
      return orderOf(seat, id).stopPx
    })
    expect(path).toEqual([49.5, 51, 51, 51])
    second(seat, id, 50.9)
    expect(orderOf(seat, id)).toMatchObject({ ordStatus: 'Filled', avgPx: 50.9, stopPx: 51 })
    // However often it was drawn along, its story tells it once.
    const steps = orderOf(seat, id).chain.map((step) => step.execType)
    expect(steps).toEqual(['New', 'Restated', 'TriggeredOrActivatedBySystem', 'Trade'])
  })

  it('as an exit it begins behind the fill; in a bar it goes with the way that is walked', () => {
    const seat = seatAt({ price: 500_000 })
    send(seat, { exits: { stop: { trail: { percent: 2 } } } })
    const terms = { slipE4: 0, share: 1 }
    const bar = (open: number, high: number, low: number, close: number) => ({
      ...{ open: toE4(open), high: toE4(high), low: toE4(low), close: toE4(close), volume: 1e6 },
    })
    meetBar(seat, 'OSPRY', bar(50, 50.2, 49.5, 50), 0, terms)
    expect(seat.book.orders.O2).toMatchObject({ ordType: 'TrailingStop', ordStatus: 'New' })
    // Up to 52 first, which draws it to 50.96; then down through it.
    meetBar(seat, 'OSPRY', bar(51.5, 52, 50, 50.1), 0, terms)
    expect(trades(seat).at(-1)).toEqual(['Sell', 'TrailingStop', 100, 50.96])
  })
})
