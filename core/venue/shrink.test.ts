import { expect, it } from '@jest/globals'
import { toE4 } from '../market/money'
import { orderOf, workingNow } from './desk'
import { meetSecond } from './trade'
import { deskAt, send } from '@/tests/venue'

const bracket = { exits: { stop: { price: 40 }, target: { price: 60 } } }

/** Shows an order a price, with room for all of it. */
function at(desk: ReturnType<typeof deskAt>, id: string, price: number, size = 1000): void {
  const last = toE4(price)
  const shown = { bid: last, ask: last, last, bidSize: size, askSize: size }
  meetSecond(desk, workingNow(desk, id)!, shown, 0, 0)
}
const open = (desk: ReturnType<typeof deskAt>, part: object): string => {
  const id = send(desk, { ...part })
  at(desk, id, 50)
  return id
}
const left = (desk: ReturnType<typeof deskAt>, ...ids: string[]) =>
  ids.map((id) => [orderOf(desk, id).ordStatus, orderOf(desk, id).leavesQty])

it('a close by hand rests beside stop and target; what it fills shrinks both', () => {
  const desk = deskAt({ price: 500_000 })
  open(desk, bracket)
  const hand = send(desk, { side: 'Sell', ordType: 'Limit', price: 55 })
  at(desk, hand, 55, 30)
  expect(orderOf(desk, hand).cumQty).toBeGreaterThan(29)
  const still = desk.book.holdings.OSPRY.quantity
  expect(left(desk, 'O2', 'O3')).toEqual([
    ['New', still],
    ['New', still],
  ])
  // The stop takes the rest: nothing is left for the other two.
  at(desk, 'O2', 39)
  expect(desk.book.holdings.OSPRY.quantity).toBe(0)
  expect(left(desk, 'O2', 'O3', hand)).toEqual([
    ['Filled', 0],
    ['Canceled', 0],
    ['Canceled', 0],
  ])
})

it('of two entries the exits of the older shrink first', () => {
  const desk = deskAt({ price: 500_000 })
  open(desk, bracket)
  open(desk, bracket)
  const hand = send(desk, { side: 'Sell', orderQty: 130 })
  at(desk, hand, 50)
  expect(left(desk, 'O2', 'O3', 'O5', 'O6')).toEqual([
    ['Canceled', 0],
    ['Canceled', 0],
    ['New', 70],
    ['New', 70],
  ])
})

it('a Buy that covers a short position ends with it and never opens a long one', () => {
  const desk = deskAt({ price: 500_000 })
  open(desk, { side: 'SellShort', exits: { stop: { price: 52 } } })
  const cover = send(desk, { ordType: 'Limit', price: 48 })
  at(desk, 'O2', 53)
  expect(desk.book.holdings.OSPRY.quantity).toBe(0)
  expect(left(desk, cover)).toEqual([['Canceled', 0]])
})

it('an entry that fills on beside a close by hand keeps its exits at what is held of it', () => {
  const desk = deskAt({ price: 500_000 })
  const entry = send(desk, { ...bracket, ordType: 'Limit', price: 50 })
  at(desk, entry, 50, 20)
  const first = orderOf(desk, entry).cumQty
  const hand = send(desk, { side: 'Sell', orderQty: 10 })
  at(desk, hand, 51)
  at(desk, entry, 50, 10)
  const { cumQty } = orderOf(desk, entry)
  expect(cumQty).toBeGreaterThan(first)
  expect(left(desk, 'O2')).toEqual([['New', cumQty - 10]])
})
