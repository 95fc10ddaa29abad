import { create } from 'zustand'
import { persist } from 'zustand/middleware'
import { type Security } from '@/core/market/security'
import { type Leg, type Side } from '@/core/orders/legs'
import { type NewOrder } from '@/core/orders/model'
import { tabStorage } from '../services/tabStorage'
import { type Dispatch, keptDraft, newId } from './ticketStore'

/** One leg as it is chosen. */
export interface ChosenLeg {
  side: Extract<Side, 'Buy'> | 'Sell'
  ratio: string
  maturityDate: string
  strikePrice: string
  putOrCall: 'Put' | 'Call'
}

/** Option legs as they are written; numbers are texts while they are typed. */
export interface LegsTicket {
  underlying: string
  legs: ChosenLeg[]
  quantity: string
  /** At the market, or for no worse a net price than this: paid above nought, received below. */
  ordType: 'Market' | 'Limit'
  net: string
  netIs: 'paid' | 'received'
  timeInForce: 'Day' | 'GoodTillCancel'
  clOrdId: string
  dispatch?: Dispatch
}

interface LegsState {
  ticket?: LegsTicket
  open(underlying: string): void
  change(part: Partial<LegsTicket>): void
  changeLeg(index: number, part: Partial<ChosenLeg>): void
  add(): void
  remove(index: number): void
  dispatched(clOrdId: string, dispatch: Dispatch | undefined): void
  renew(): void
  close(): void
}

const blankLeg: ChosenLeg = { side: 'Buy', ratio: '1', maturityDate: '', strikePrice: '', putOrCall: 'Call' }

const blank = (underlying: string): LegsTicket => ({
  ...{ underlying, legs: [blankLeg], quantity: '1', ordType: 'Limit', net: '', netIs: 'paid' },
  ...{ timeInForce: 'Day', clOrdId: newId(underlying) },
})

export const useLegs = create<LegsState>()(
  persist(
    (set) => {
      const change = (make: (ticket: LegsTicket) => Partial<LegsTicket>) =>
        set(({ ticket }) => (ticket ? { ticket: { ...ticket, ...make(ticket) } } : {}))
      return {
        open: (underlying) =>
          set(({ ticket }) => ({ ticket: ticket?.underlying === underlying ? ticket : blank(underlying) })),
        change: (part) => change(() => part),
        changeLeg: (index, part) =>
          change(({ legs }) => ({ legs: legs.map((leg, i) => (i === index ? { ...leg, ...part } : leg)) })),
        // The next leg is most often of the same expiry, on the other side.
        add: () =>
          change(({ legs }) => {
            const last = legs.at(-1) ?? blankLeg
            return {
              legs: [...legs, { ...last, side: last.side === 'Buy' ? 'Sell' : 'Buy', strikePrice: '' }],
            }
          }),
        remove: (index) => change(({ legs }) => ({ legs: legs.filter((_leg, i) => i !== index) })),
        dispatched: (clOrdId, dispatch) =>
          change((ticket) => (ticket.clOrdId === clOrdId ? { dispatch } : {})),
        renew: () => change(({ underlying }) => ({ clOrdId: newId(underlying), dispatch: undefined })),
        close: () => set({ ticket: undefined }),
      }
    },
    {
      name: 'heron-legs',
      storage: tabStorage(),
      partialize: ({ ticket }) => ({ ticket: keptDraft(ticket) }),
    },
  ),
)

/** The contract that a leg names; undefined where the chain has none. */
export const contractOf = (leg: ChosenLeg, chain: readonly Security[]): Security | undefined =>
  chain.find(
    ({ option }) =>
      option!.maturityDate === leg.maturityDate &&
      option!.putOrCall === leg.putOrCall &&
      String(option!.strikePrice) === leg.strikePrice,
  )

const whole = (text: string): number => (/^\d+$/.test(text.trim()) ? Number(text) : NaN)

/** The side that a leg is sent with: what is held is closed by Sell, what is not is opened by SellShort. */
const sideOf = ({ side }: ChosenLeg, held: number): Side =>
  side === 'Buy' ? 'Buy' : held > 0 ? 'Sell' : 'SellShort'

/** The legs as they would be sent; undefined while one is not chosen. */
export function legsOf(
  { legs }: LegsTicket,
  chain: readonly Security[],
  heldOf: (symbol: string) => number,
): Leg[] | undefined {
  const out = legs.flatMap((leg) => {
    const symbol = contractOf(leg, chain)?.symbol
    const legRatioQty = whole(leg.ratio)
    return symbol && legRatioQty > 0 ? [{ symbol, legSide: sideOf(leg, heldOf(symbol)), legRatioQty }] : []
  })
  return out.length === legs.length ? out : undefined
}

/** The order that legs come to, or which blank is not filled in. */
export function orderOf(
  ticket: LegsTicket,
  chain: readonly Security[],
  heldOf: (symbol: string) => number,
): { order: NewOrder } | { why: string } {
  const { legs, quantity, ordType, net, netIs, timeInForce, clOrdId, underlying } = ticket
  const orderQty = whole(quantity)
  if (!(orderQty > 0)) return { why: 'Fill in how many, a whole number above nought.' }
  const missing = legs.findIndex((leg) => contractOf(leg, chain) === undefined)
  if (missing >= 0)
    return { why: `Choose expiry and strike of the ${['first', 'second', 'third', 'fourth'][missing]} leg.` }
  const sent = legsOf(ticket, chain, heldOf)
  if (!sent) return { why: 'A ratio is a whole number above nought.' }
  const price = net.trim() === '' ? NaN : Number(net)
  if (ordType === 'Limit' && !(price >= 0)) return { why: 'Fill in the net price, nought for even.' }
  const common = { clOrdId, ordType, timeInForce, origin: { from: 'Hand' as const } }
  if (sent.length === 1) {
    const [{ symbol, legSide, legRatioQty }] = sent
    if (ordType === 'Limit' && !(price > 0)) return { why: 'Fill in the price, a number above nought.' }
    return {
      order: {
        ...{ ...common, symbol, side: legSide, orderQty: orderQty * legRatioQty },
        ...(ordType === 'Limit' ? { price } : {}),
      },
    }
  }
  return {
    order: {
      ...{ ...common, symbol: underlying, side: 'Buy', orderQty, legs: sent },
      ...(ordType === 'Limit' ? { price: netIs === 'paid' ? price : -price } : {}),
    },
  }
}
