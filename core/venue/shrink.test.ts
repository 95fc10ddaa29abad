import { expect, it } from '@jest/globals'
import { toE4 } from '../market/money'
import { orderOf, workingNow } from './seat'
import { meetSecond } from './trade'
import { seatAt, send } from '@/tests/venue'

const bracket = { exits: { stop: { price: 40 }, target: { price: 60 } } }

/** Shows an order a price, with room for all of it. */
function at(seat: ReturnType<typeof seatAt>, id: string, price: number, size = 1000): void {
  const last = toE4(price)
  const shown = { bid: last, ask: last, last, bidSize: size, askSize: size }
  meetSecond(seat, workingNow(seat, id)!, shown, 0, 0)
}
const open = (seat: ReturnType<typeof seatAt>, part: object): string => {
  const id = send(seat, { ...part })
  at(seat, id, 50)
  return id
}
const left = (seat: ReturnType<typeof seatAt>, ...ids: string[]) =>
  ids.map((id) => [orderOf(seat, id).ordStatus, orderOf(seat, id).leavesQty])

it('a close by hand rests beside stop and target; what it fills shrinks both', () => {
  const seat = seatAt({ price: 500_000 })
  open(seat, bracket)
  const hand = send(seat, { side: 'Sell', ordType: 'Limit', price: 55 })
  at(seat, hand, 55, 30)
  expect(orderOf(seat, hand).cumQty).toBeGreaterThan(29)
  const still = seat.book.holdings.OSPRY.quantity
  expect(left(seat, 'O2', 'O3')).toEqual([
    ['New', still],
    ['New', still],
  ])
  // The stop takes the rest: nothing is left for the other two.
  at(seat, 'O2', 39)
  expect(seat.book.holdings.OSPRY.quantity).toBe(0)
  expect(left(seat, 'O2', 'O3', hand)).toEqual([
    ['Filled', 0],
    ['Canceled', 0],
    ['Canceled', 0],
  ])
})

it('of two entries the exits of the older shrink first', () => {
  const seat = seatAt({ price: 500_000 })
  open(seat, bracket)
  open(seat, bracket)
  const hand = send(seat, { side: 'Sell', orderQty: 130 })
  at(seat, hand, 50)
  expect(left(seat, 'O2', 'O3', 'O5', 'O6')).toEqual([
    ['Canceled', 0],
    ['Canceled', 0],
    ['New', 70],
    ['New', 70],
  ])
})

it('a Buy that covers a short position ends with it and never opens a long one', () => {
  const seat = seatAt({ price: 500_000 })
  open(seat, { side: 'SellShort', exits: { stop: { price: 52 } } })
  const cover = send(seat, { ordType: 'Limit', price: 48 })
  at(seat, 'O2', 53)
  expect(seat.book.holdings.OSPRY.quantity).toBe(0)
  expect(left(seat, cover)).toEqual([['Canceled', 0]])
})

it('an entry that fills on beside a close by hand keeps its exits at what is held of it', () => {
  const seat = seatAt({ price: 500_000 })
  const entry = send(seat, { ...bracket, ordType: 'Limit', price: 50 })
  at(seat, entry, 50, 20)
  const first = orderOf(seat, entry).cumQty
  const hand = send(seat, { side: 'Sell', orderQty: 10 })
  at(seat, hand, 51)
  at(seat, entry, 50, 10)
  const { cumQty } = orderOf(seat, entry)
  expect(cumQty).toBeGreaterThan(first)
  expect(left(seat, 'O2')).toEqual([['New', cumQty - 10]])
})
