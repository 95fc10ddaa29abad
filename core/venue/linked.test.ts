import { describe, expect, it } from '@jest/globals'
import { toE4 } from '../market/money'
import { seatAt, send, trades } from '@/tests/venue'
import { workingNow } from './seat'
import { cancel } from './orders'
import { meetSecond } from './trade'

/** A venue with one security, whose price is set by hand; every working order is shown each price. */
function venue() {
  const now = { price: toE4(50) }
  const seat = seatAt(now)
  const show = (price: number, size = 10_000) => {
    now.price = toE4(price)
    const shown = { bid: now.price, ask: now.price, last: now.price, bidSize: size, askSize: size }
    for (const { orderId } of [...(seat.book.working.OSPRY ?? [])]) {
      const order = workingNow(seat, orderId)
      if (order && !order.pending) meetSecond(seat, order, shown, 0, 0)
    }
  }
  const order = (clOrdId: string) => seat.book.orders[seat.book.byClOrdId[clOrdId]]
  return { seat, show, order }
}

describe('orders that are tied to others', () => {
  it('of two linked ones the first that trades ends the other', () => {
    const { seat, show, order } = venue()
    const common = { ordType: 'Stop', clOrdLinkId: 'range' }
    send(seat, { ...common, clOrdId: 'up', stopPx: 51 })
    send(seat, { ...common, clOrdId: 'down', side: 'SellShort', stopPx: 49 })
    expect(order('up').contingencyType).toBe('OneCancelsTheOther')
    show(51.5)
    expect([order('up').ordStatus, order('down').ordStatus]).toEqual(['Filled', 'Canceled'])
    expect(order('down').text).toBe('up has traded instead')
  })

  it('one that another sets off waits for all of it to be filled', () => {
    const { seat, show, order } = venue()
    send(seat, { clOrdId: 'first', ordType: 'Limit', price: 49 })
    send(seat, { clOrdId: 'then', side: 'Sell', ordType: 'Limit', price: 52, triggerClOrdId: 'first' })
    show(50)
    expect([order('then').ordStatus, order('then').contingencyType]).toEqual([
      'PendingNew',
      'OneTriggersTheOther',
    ])
    show(49)
    expect([order('first').ordStatus, order('then').ordStatus]).toEqual(['Filled', 'New'])
    show(52)
    expect(order('then').ordStatus).toBe('Filled')
  })

  it('is set off in proportion where the first ends partly filled, and ends with one that never was', () => {
    const { seat, show, order } = venue()
    send(seat, { clOrdId: 'first', ordType: 'Limit', price: 49, orderQty: 100 })
    send(seat, {
      clOrdId: 'then',
      side: 'Sell',
      ordType: 'Limit',
      price: 60,
      orderQty: 50,
      triggerClOrdId: 'first',
    })
    show(49, 20)
    const { cumQty, orderId } = order('first')
    cancel(seat, orderId, 0)
    expect(order('then')).toMatchObject({ ordStatus: 'New', orderQty: Math.floor(cumQty / 2) })
    const other = send(seat, { clOrdId: 'second', ordType: 'Limit', price: 40 })
    send(seat, { clOrdId: 'never', side: 'Sell', triggerClOrdId: 'second' })
    cancel(seat, other, 0)
    expect(order('never').ordStatus).toBe('Canceled')
  })

  it('both together: an entry sets off two that cancel each other', () => {
    const { seat, show, order } = venue()
    send(seat, { clOrdId: 'in' })
    const common = { side: 'Sell', triggerClOrdId: 'in', clOrdLinkId: 'out' }
    send(seat, { ...common, clOrdId: 'high', ordType: 'Limit', price: 55 })
    send(seat, { ...common, clOrdId: 'low', ordType: 'Stop', stopPx: 45 })
    show(50)
    show(55)
    expect([order('in').ordStatus, order('high').ordStatus, order('low').ordStatus]).toEqual([
      'Filled',
      'Filled',
      'Canceled',
    ])
  })
})

describe('exits for parts of a position', () => {
  const parts = [{ share: 50, target: { percent: 10 }, stop: { percent: 10 } }, { stop: { percent: 4 } }]

  it('each is as large as its share of what is filled, the last takes the rest', () => {
    const { seat, show, order } = venue()
    send(seat, { clOrdId: 'in', orderQty: 101, exits: { parts } })
    show(50)
    expect(['in/stop', 'in/target', 'in/stop2'].map((id) => order(id).orderQty)).toEqual([50, 50, 51])
    expect(['in/stop', 'in/target', 'in/stop2'].map((id) => order(id).stopPx ?? order(id).price)).toEqual([
      45, 55, 48,
    ])
    show(55)
    // The target of the first part ends its stop, not that of the other.
    expect(['in/stop', 'in/target', 'in/stop2'].map((id) => order(id).ordStatus)).toEqual([
      'Canceled',
      'Filled',
      'New',
    ])
    show(48)
    expect(seat.book.holdings.OSPRY.quantity).toBe(0)
    expect(seat.book.working).toEqual({})
  })

  it('a close by hand shrinks them, and none is left with nothing held', () => {
    const { seat, show, order } = venue()
    send(seat, { clOrdId: 'in', orderQty: 100, exits: { parts } })
    show(50)
    send(seat, { clOrdId: 'half', side: 'Sell', orderQty: 60 })
    show(50)
    const left = ['in/stop', 'in/stop2'].map((id) => order(id).leavesQty)
    expect(left[0] + left[1]).toBe(40)
    send(seat, { clOrdId: 'rest', side: 'Sell', orderQty: 40 })
    show(50)
    expect(seat.book.working).toEqual({})
  })
})

describe('a level on the wrong side of the fill', () => {
  const exits = { stop: { price: 49 } }

  it('is left at once where nothing else is said', () => {
    const { seat, show, order } = venue()
    send(seat, { clOrdId: 'in', ordType: 'Limit', price: 50, exits })
    show(48)
    expect(order('in/stop').text).toContain('wrong side')
    show(48)
    expect(trades(seat)).toEqual([
      ['Buy', 'Limit', 100, 48],
      ['Sell', 'Stop', 100, 48],
    ])
  })

  it('is refused where that is asked: nothing trades at such a price', () => {
    const { seat, show, order } = venue()
    send(seat, { clOrdId: 'in', ordType: 'Limit', price: 50, exits: { ...exits, wrongSide: 'Refuse' } })
    show(48)
    expect(trades(seat)).toEqual([])
    expect(order('in')).toMatchObject({
      ordStatus: 'Canceled',
      text: 'the stop at 49.00 would lie on the wrong side of a fill at 48.00',
    })
  })
})

it('a close-only Buy covers no more than is short by then', () => {
  const { seat, show, order } = venue()
  send(seat, { side: 'SellShort', orderQty: 100 })
  show(50)
  send(seat, { clOrdId: 'cover', orderQty: 100, ordType: 'Limit', price: 45, positionEffect: 'Close' })
  send(seat, { clOrdId: 'some', orderQty: 70, positionEffect: 'Close' })
  show(50)
  expect(order('cover').leavesQty).toBe(30)
  show(45)
  expect(seat.book.holdings.OSPRY.quantity).toBe(0)
})
