import { create } from 'zustand'
import {
  hasLimit,
  hasStop,
  isAtOnce,
  isInAuction,
  type OrdType,
  type TimeInForce,
  waitsForPrice,
} from '@/core/orders/model'
import { type ExitLevel } from '@/core/orders/exits'
import { underlyingOf } from '@/core/options/osi'
import { type Sizing } from '@/core/orders/size'

export type ExitUnit = 'percent' | 'ticks' | 'price' | 'amount' | 'total' | 'risk' | 'trail'

/** The ticket that is being written. Numbers are texts while they are typed. */
export interface Ticket {
  symbol: string
  direction: 'long' | 'short' | 'close'
  sizeBy: Sizing['by']
  size: string
  ordType: OrdType
  /** What a Limit or StopLimit never trades worse than. */
  price: string
  /** What sets a Stop or StopLimit off. */
  trigger: string
  /** How far a TrailingStop stays behind. */
  trail: string
  trailUnit: 'percent' | 'amount'
  timeInForce: TimeInForce
  /** Last day of a GoodTillDate order. */
  expireDate: string
  stop: string
  stopUnit: ExitUnit
  target: string
  targetUnit: ExitUnit
  /** Made with the ticket, so that sending it twice sends one order. */
  clOrdId: string
}

/** A client order id of something that was done by hand. */
export const newId = (symbol: string): string =>
  `desk-${underlyingOf(symbol)}-${Date.now().toString(36)}${Math.floor(Math.random() * 1296).toString(36)}`

const blank = (symbol: string): Ticket => ({
  symbol,
  direction: 'long',
  sizeBy: 'risk',
  size: '0.8',
  ordType: 'Market',
  price: '',
  trigger: '',
  trail: '2',
  trailUnit: 'percent',
  timeInForce: 'Day',
  expireDate: '',
  stop: '3',
  stopUnit: 'percent',
  target: '7',
  targetUnit: 'percent',
  clOrdId: newId(symbol),
})

interface TicketState {
  ticket?: Ticket
  /** Opens a ticket for a security; one that is open for it already is kept as it is. */
  open(symbol: string): void
  change(part: Partial<Ticket>): void
  /** After it was sent: the same wishes under a new id. */
  renew(): void
  close(): void
}

/** The wishes of a ticket that mean the same for another security: not its prices. */
function forAnySecurity({ price: _price, trigger: _trigger, ...ticket }: Ticket): Partial<Ticket> {
  const { stop, stopUnit, target, targetUnit, ...rest } = ticket
  return {
    ...rest,
    ...(stopUnit === 'price' ? {} : { stop, stopUnit }),
    ...(targetUnit === 'price' ? {} : { target, targetUnit }),
  }
}

export const useTicket = create<TicketState>((set) => ({
  open: (symbol) =>
    set(({ ticket }) => ({
      ticket:
        ticket?.symbol === symbol
          ? ticket
          : { ...blank(symbol), ...(ticket && forAnySecurity(ticket)), symbol, clOrdId: newId(symbol) },
    })),
  change: (part) => set(({ ticket }) => (ticket ? { ticket: { ...ticket, ...part } } : {})),
  renew: () => set(({ ticket }) => (ticket ? { ticket: { ...ticket, clOrdId: newId(ticket.symbol) } } : {})),
  close: () => set({ ticket: undefined }),
}))

/** What follows for a ticket when its order type is changed: what waits for a price cannot be for this moment only. */
export const withType = (ordType: OrdType, { timeInForce }: Ticket): Partial<Ticket> => ({
  ordType,
  ...(waitsForPrice(ordType) && (isAtOnce(timeInForce) || isInAuction(timeInForce))
    ? { timeInForce: 'Day' }
    : {}),
})

const number = (text: string): number => (/^\d*\.?\d+$/.test(text.trim()) ? Number(text) : NaN)

function exit(text: string, unit: ExitUnit): ExitLevel | undefined {
  const value = number(text)
  if (!(value > 0)) return undefined
  switch (unit) {
    case 'price':
      return { price: value }
    case 'percent':
      return { percent: value }
    case 'ticks':
      return { ticks: Math.round(value) }
    case 'amount':
      return { amount: value }
    case 'total':
      return { total: value }
    case 'risk':
      return { risk: value }
    case 'trail':
      return { trail: { percent: value } }
  }
}

/** The ticket as a draft, or which blank is not filled in. */
export function draftOf(ticket: Ticket) {
  const size = number(ticket.size)
  const [price, trigger] = [number(ticket.price), number(ticket.trigger)]
  if (!(size > 0)) return { why: 'Fill in the size with a number above nought.' }
  if (hasStop(ticket.ordType) && !(trigger > 0)) return { why: 'Fill in the stop price.' }
  if (hasLimit(ticket.ordType) && !(price > 0)) return { why: 'Fill in the limit price.' }
  const trail = number(ticket.trail)
  if (ticket.ordType === 'TrailingStop' && !(trail > 0 && (ticket.trailUnit === 'amount' || trail < 100)))
    return { why: 'Fill in how far the stop stays behind, a number above nought.' }
  if (ticket.timeInForce === 'GoodTillDate' && ticket.expireDate === '')
    return { why: 'Choose the last day of the order.' }
  const closing = ticket.direction === 'close'
  // An exit that cannot be read must never silently become an order without it.
  for (const [name, text] of closing
    ? []
    : ([
        ['stop', ticket.stop],
        ['target', ticket.target],
      ] as const)) {
    if (text.trim() !== '' && !(number(text) > 0))
      return {
        why: `The ${name} “${text}” is not a number above nought. Leave it empty for an order without a ${name}.`,
      }
  }
  const stop = closing ? undefined : exit(ticket.stop, ticket.stopUnit)
  const target = closing ? undefined : exit(ticket.target, ticket.targetUnit)
  if (target && 'risk' in target && !stop)
    return { why: 'A target in multiples of the risk needs a stop to be measured by.' }
  const sizing: Sizing =
    ticket.sizeBy === 'shares'
      ? { by: 'shares', shares: size }
      : ticket.sizeBy === 'money'
        ? { by: 'money', money: size }
        : { by: ticket.sizeBy, percentOfEquity: size }
  return {
    draft: {
      clOrdId: ticket.clOrdId,
      symbol: ticket.symbol,
      side:
        ticket.direction === 'long'
          ? ('Buy' as const)
          : ticket.direction === 'short'
            ? ('SellShort' as const)
            : ('Sell' as const),
      sizing,
      ordType: ticket.ordType,
      ...(hasLimit(ticket.ordType) ? { price } : {}),
      ...(hasStop(ticket.ordType) ? { stopPx: trigger } : {}),
      ...(ticket.ordType === 'TrailingStop'
        ? { trail: ticket.trailUnit === 'amount' ? { amount: trail } : { percent: trail } }
        : {}),
      timeInForce: ticket.timeInForce,
      ...(ticket.timeInForce === 'GoodTillDate' ? { expireDate: ticket.expireDate } : {}),
      ...(stop || target ? { exits: { ...(stop ? { stop } : {}), ...(target ? { target } : {}) } } : {}),
    },
  }
}
