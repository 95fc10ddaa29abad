import { merged } from '../orders/fields'
import { isOption, underlyingOf } from '../options/osi'
import { type OrderFacts } from '../orders/check'
import { directionOf } from '../orders/levels'
import { initialShare } from '../orders/margin'
import { isWorking, type NewOrder } from '../orders/model'
import { ALL, type Book, isTaken, sharesOf, standingUnder } from './book'
import { promisedIn } from './sums'
import { type WorkingBook } from './working'

/** What is known of the market and of the account's figures when an order is checked. */
export type Known = Pick<
  OrderFacts,
  | 'security'
  | 'near'
  | 'bid'
  | 'ask'
  | 'last'
  | 'session'
  | 'currency'
  | 'buyingPowerE4'
  | 'expiry'
  | 'needs'
  | 'borrowable'
  | 'halted'
  | 'rate'
> & {
  legs?: readonly Pick<OrderFacts, 'security' | 'near' | 'bid' | 'ask' | 'last' | 'borrowable'>[]
}

/**
 * What an order is checked against in an account as it stands. The one place where that is put together: for the
 * broker's check and for the rows of a sheet, which are checked as if those before them rested (`working`).
 */
export function factsOf(
  book: Book,
  order: Pick<NewOrder, 'symbol' | 'side' | 'clOrdId' | 'lot' | 'legs' | 'triggerClOrdId'>,
  known: Known,
  working: WorkingBook = book.working,
): OrderFacts {
  const own = ofAccount(book, order, working)
  const { trigger, sharesHeld = own.sharesHeld } = triggerOf(book, order)
  const { legs } = known
  return {
    security: known.security,
    near: known.near,
    bid: known.bid,
    ask: known.ask,
    last: known.last,
    session: known.session,
    currency: known.currency,
    buyingPowerE4: known.buyingPowerE4,
    share: initialShare(book.rules),
    expiry: known.expiry,
    needs: known.needs,
    borrowable: known.borrowable,
    halted: known.halted,
    rate: known.rate,
    lots: own.lots,
    mayShort: own.mayShort,
    sharesHeld,
    promised: own.promised,
    offeredShort: own.offeredShort,
    trigger,
    legs:
      order.legs && legs
        ? order.legs.map(({ symbol, legSide }, i) =>
            merged(legs[i], ofAccount(book, { symbol, side: legSide }, working)),
          )
        : undefined,
    stoodDown:
      ALL in book.stoodDown
        ? 'account'
        : order.symbol in book.stoodDown || underlyingOf(order.symbol) in book.stoodDown
          ? 'security'
          : undefined,
    clOrdIdTaken: isTaken(book, order.clOrdId),
  }
}

/** What becomes of the order that sets another off; what it will have traded by then is held when the other comes to trade. */
function triggerOf(
  book: Book,
  { triggerClOrdId, symbol }: Pick<NewOrder, 'triggerClOrdId' | 'symbol'>,
): Partial<Pick<OrderFacts, 'trigger' | 'sharesHeld'>> {
  if (triggerClOrdId === undefined) return {}
  const trigger = standingUnder(book, triggerClOrdId)
  if (!trigger) return { trigger: isTaken(book, triggerClOrdId) ? 'over' : 'unknown' }
  if (!isWorking(trigger.ordStatus)) return { trigger: 'over' }
  if (trigger.symbol !== symbol || trigger.legs) return { trigger: 'works' }
  const then = sharesOf(book, symbol) + directionOf(trigger.side) * trigger.leavesQty
  return { trigger: 'works', sharesHeld: then }
}

/** What an account has of a security, and has promised. */
function ofAccount(
  book: Book,
  { symbol, side, lot }: Pick<NewOrder, 'symbol' | 'side' | 'lot'>,
  working: WorkingBook,
): Pick<OrderFacts, 'lots' | 'mayShort' | 'sharesHeld' | 'promised' | 'offeredShort'> {
  const { sold, bought, short } = promisedIn(working[symbol] ?? [])
  return {
    lots: lot === undefined ? [] : (book.holdings[symbol]?.lots ?? []).map(({ id }) => id),
    // What may be written of options is a matter of their level.
    mayShort: book.rules.short || isOption(symbol),
    sharesHeld: sharesOf(book, symbol),
    promised: side === 'Sell' ? sold : bought,
    offeredShort: short,
  }
}
