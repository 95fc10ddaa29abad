import { describe, expect, it } from '@jest/globals'
import { seatAt, send } from '@/tests/venue'
import { toE4 } from '../market/money'
import { askCancel, cancel } from '../venue/orders'
import { askReplace, refuseReplace, replace } from '../venue/replace'
import { workingNow } from '../venue/seat'
import { meetSecond } from '../venue/trade'
import { ExecType, OrdStatus } from './model'
import { allowsNext, mayFollow } from './states'

/** An order of 100 at a limit that trades so many shares whenever it is shown the market. */
function life(orderQty = 100) {
  const now = { price: toE4(50) }
  const seat = seatAt(now)
  const orderId = send(seat, { clOrdId: 'o', orderQty, ordType: 'Limit', price: 50 })
  const order = () => seat.book.orders[orderId]
  const trade = (size: number) => {
    const working = workingNow(seat, orderId)!
    const shown = { bid: now.price, ask: now.price, last: now.price, bidSize: size, askSize: size }
    meetSecond(seat, working, shown, 0, 0)
  }
  const states = () =>
    order().chain.map(({ execType, ordStatus, cumQty }) => `${execType} ${ordStatus} ${cumQty}`)
  return { seat, orderId, order, trade, states }
}

// FIX 4.4 volume 4, appendix D, order state change matrices (from memory), by their letters.
describe('the life of an order as the matrices of FIX have it', () => {
  it('A.1.a filled order', () => {
    const { trade, states } = life()
    trade(20)
    trade(80)
    expect(states()).toEqual(['New New 0', 'Trade PartiallyFilled 20', 'Trade Filled 100'])
  })

  it('B.1.a cancel of an order with nothing filled', () => {
    const { seat, orderId, states } = life()
    askCancel(seat, orderId, 0)
    cancel(seat, orderId, 0)
    expect(states()).toEqual(['New New 0', 'PendingCancel PendingCancel 0', 'Canceled Canceled 0'])
  })

  it('B.1.b cancel of a part-filled order: executions while it is pending keep the pending state', () => {
    const { seat, orderId, order, trade, states } = life()
    trade(20)
    askCancel(seat, orderId, 0)
    trade(30)
    cancel(seat, orderId, 0)
    expect(states().slice(2)).toEqual([
      'PendingCancel PendingCancel 20',
      'Trade PendingCancel 50',
      'Canceled Canceled 50',
    ])
    expect(order().leavesQty).toBe(0)
  })

  it('B.1.c cancel of an order that is filled before it can be canceled', () => {
    const { seat, orderId, order, trade } = life()
    trade(20)
    askCancel(seat, orderId, 0)
    trade(80)
    expect(order()).toMatchObject({ ordStatus: 'Filled', cumQty: 100, leavesQty: 0 })
  })

  it('C.1.a replace to increase the quantity; B.2 its chain of ids is kept', () => {
    const { seat, order, trade, states } = life()
    const change = { clOrdId: 'o-2', orderQty: 150 }
    askReplace(seat, order(), change, 0)
    replace(seat, order(), change, 0)
    trade(150)
    expect(states()).toEqual([
      'New New 0',
      'PendingReplace PendingReplace 0',
      'Replaced New 0',
      'Trade Filled 150',
    ])
    expect(order()).toMatchObject({ clOrdId: 'o-2', origClOrdId: 'o', orderQty: 150 })
    expect(['o', 'o-2'].map((id) => seat.book.byClOrdId[id])).toEqual(['O1', 'O1'])
  })

  it('C.1.b replace of a part-filled order, with an execution while it is pending', () => {
    const { seat, order, trade, states } = life()
    trade(10)
    const change = { clOrdId: 'o-2', orderQty: 120 }
    askReplace(seat, order(), change, 0)
    trade(10)
    replace(seat, order(), change, 0)
    expect(states().slice(2)).toEqual([
      'PendingReplace PendingReplace 10',
      'Trade PendingReplace 20',
      'Replaced PartiallyFilled 20',
    ])
    expect(order()).toMatchObject({ orderQty: 120, leavesQty: 100, cumQty: 20 })
  })

  it('C.2 replace of an order that is filled before it can be replaced', () => {
    const { seat, order, trade } = life()
    askReplace(seat, order(), { clOrdId: 'o-2', orderQty: 120 }, 0)
    trade(100)
    expect(order().ordStatus).toBe('Filled')
  })

  it('a change that is refused leaves the order as it was, under the id that it had', () => {
    const { seat, order, trade } = life()
    trade(10)
    askReplace(seat, order(), { clOrdId: 'o-2', price: 51 }, 0)
    refuseReplace(seat, order(), 0, 'too dear')
    expect(order()).toMatchObject({ ordStatus: 'PartiallyFilled', clOrdId: 'o', price: 50, cumQty: 10 })
    expect([order().asked, order().origClOrdId]).toEqual([undefined, undefined])
  })

  it('nothing follows a final state', () => {
    for (const from of ['Filled', 'Canceled', 'Rejected', 'Expired'] as const)
      for (const execType of ExecType.options)
        for (const to of OrdStatus.options) expect(mayFollow(from, execType, to)).toBe(false)
  })

  it('says what a state allows next', () => {
    const { seat, orderId, order } = life()
    expect(allowsNext(order())).toEqual({ cancel: true, replace: ['orderQty', 'price', 'timeInForce'] })
    askCancel(seat, orderId, 0)
    expect(allowsNext(order())).toEqual({ cancel: false, replace: [] })
    cancel(seat, orderId, 0)
    expect(allowsNext(order())).toEqual({ cancel: false, replace: [] })
  })
})
