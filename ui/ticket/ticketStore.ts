import { create } from 'zustand'
import { persist } from 'zustand/middleware'
import {
  isAtOnce,
  isInAuction,
  type Order,
  type OrdType,
  type TimeInForce,
  waitsForPrice,
} from '@/core/orders/model'
import { underlyingOf } from '@/core/options/osi'
import { type Sizing } from '@/core/orders/size'
import { tabStorage } from '../services/tabStorage'

/** What became of a draft: it is being sent, or the broker has taken it. */
export interface Dispatch {
  is: 'sending' | 'sent'
  /** Environment and account that it went to, in words. */
  where: string
  /** As the broker took it. */
  order?: Order
}

export type ExitUnit = 'percent' | 'ticks' | 'price' | 'amount' | 'total' | 'risk' | 'trail'

/** How a part of the position is left. Numbers are texts while they are typed. */
export interface TicketPart {
  /** Percent of the position; the last part takes the rest. */
  share: string
  stop: string
  stopUnit: ExitUnit
  target: string
  targetUnit: ExitUnit
}

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
  /** One to four ways out, each for a part of the position. */
  parts: readonly TicketPart[]
  /** What becomes of a level on the wrong side of the fill. */
  wrongSide: 'LeaveAtOnce' | 'Refuse'
  /** Client order id of the order that sets it off; empty where it goes at once. */
  after: string
  /** Name of the orders of which the first that trades ends the others; empty where it stands alone. */
  link: string
  /** Made with the ticket, so that sending it twice sends one order. */
  clOrdId: string
  /** Once it is sent the ticket stands for that order, wherever it is shown. */
  dispatch?: Dispatch
}

/** What of a draft outlives the page: whether one that was being sent has arrived is asked of the broker. */
export const keptDraft = <D extends { dispatch?: Dispatch }>(draft: D | undefined): D | undefined =>
  draft?.dispatch?.is === 'sending' ? { ...draft, dispatch: undefined } : draft

/** A client order id of something that was done by hand. */
export const newId = (symbol: string): string =>
  `desk-${underlyingOf(symbol)}-${Date.now().toString(36)}${Math.floor(Math.random() * 1296).toString(36)}`

const blankPart: TicketPart = {
  ...{ share: '', stop: '3', stopUnit: 'percent', target: '7', targetUnit: 'percent' },
}

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
  parts: [blankPart],
  wrongSide: 'LeaveAtOnce',
  after: '',
  link: '',
  clOrdId: newId(symbol),
})

interface TicketState {
  ticket?: Ticket
  /** Opens a ticket for a security; one that is open for it already is kept as it is. */
  open(symbol: string): void
  change(part: Partial<Ticket>): void
  /** Notes what became of the draft under an id; one that was closed or begun anew meanwhile is left alone. */
  dispatched(clOrdId: string, dispatch: Dispatch | undefined): void
  /** Begins another order with the same wishes, under a new id. */
  renew(): void
  close(): void
}

/** The wishes of a ticket that mean the same for another security: not its prices, nor its ties to other orders. */
function forAnySecurity(ticket: Ticket): Partial<Ticket> {
  const {
    price: _price,
    trigger: _trigger,
    after: _after,
    link: _link,
    dispatch: _gone,
    parts,
    ...rest
  } = ticket
  const { stop, stopUnit, target, targetUnit } = blankPart
  return {
    ...rest,
    parts: parts.map((part) => ({
      ...part,
      ...(part.stopUnit === 'price' ? { stop, stopUnit } : {}),
      ...(part.targetUnit === 'price' ? { target, targetUnit } : {}),
    })),
  }
}

export const useTicket = create<TicketState>()(
  persist(
    (set) => ({
      open: (symbol) =>
        set(({ ticket }) => ({
          ticket:
            ticket?.symbol === symbol
              ? ticket
              : { ...blank(symbol), ...(ticket && forAnySecurity(ticket)), symbol, clOrdId: newId(symbol) },
        })),
      change: (part) => set(({ ticket }) => (ticket ? { ticket: { ...ticket, ...part } } : {})),
      dispatched: (clOrdId, dispatch) =>
        set(({ ticket }) => (ticket?.clOrdId === clOrdId ? { ticket: { ...ticket, dispatch } } : {})),
      renew: () =>
        set(({ ticket }) =>
          ticket ? { ticket: { ...ticket, clOrdId: newId(ticket.symbol), dispatch: undefined } } : {},
        ),
      close: () => set({ ticket: undefined }),
    }),
    {
      name: 'heron-ticket',
      storage: tabStorage(),
      partialize: ({ ticket }) => ({ ticket: keptDraft(ticket) }),
    },
  ),
)

type Parts = readonly TicketPart[]

/** Parts with one of them changed. */
export const changedPart = (parts: Parts, at: number, some: Partial<TicketPart>): Parts =>
  parts.map((one, i) => (i === at ? { ...one, ...some } : one))

/** Parts with another one, for half of what the last was for. */
export const splitPart = (parts: Parts): Parts => [
  ...parts.slice(0, -1),
  { ...parts.at(-1)!, share: String(Math.round(50 * restOf(parts)) / 100) },
  { ...parts.at(-1)!, share: '' },
]

/** Parts without one of them; the last takes the rest. */
export function withoutPart(parts: Parts, at: number): Parts {
  const left = parts.filter((_, i) => i !== at)
  return [...left.slice(0, -1), { ...left.at(-1)!, share: '' }]
}

/** What was typed as a number; NaN where it is none, or below nought. */
export const typedNumber = (text: string): number => (/^\d*\.?\d+$/.test(text.trim()) ? Number(text) : NaN)

/** Percent of the position that is left for the last part. */
export const restOf = (parts: Parts): number =>
  parts.slice(0, -1).reduce((rest, { share }) => rest - (typedNumber(share) || 0), 100)

/** What follows for a ticket when its order type is changed: what waits for a price cannot be for this moment only. */
export const withType = (ordType: OrdType, { timeInForce }: Ticket): Partial<Ticket> => ({
  ordType,
  ...(waitsForPrice(ordType) && (isAtOnce(timeInForce) || isInAuction(timeInForce))
    ? { timeInForce: 'Day' }
    : {}),
})
