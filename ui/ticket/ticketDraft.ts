import { type ExitLevel, type ExitPart, Exits } from '@/core/orders/exits'
import { type OrderDraft } from '@/core/orders/draft'
import { type Side } from '@/core/orders/legs'
import { hasLimit, hasStop } from '@/core/orders/model'
import { type Sizing } from '@/core/orders/size'
import { type ExitUnit, type Ticket, typedNumber } from './ticketStore'

function exit(text: string, unit: ExitUnit): ExitLevel | undefined {
  const value = typedNumber(text)
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

/** True where the side on which an exit lies depends on the fill. */
export const mayLieWrong = ({ parts }: Ticket): boolean =>
  parts.some((part) => part.stopUnit === 'price' || part.targetUnit === 'price')

/** The exits of a ticket, or which blank is wrong. One that cannot be read must never silently be an order without it. */
function exitsOf(ticket: Ticket): { exits?: Exits } | { why: string } {
  const { parts, wrongSide } = ticket
  const alone = parts.length === 1
  for (const { stop, target } of parts)
    for (const [name, text] of [
      ['stop', stop],
      ['target', target],
    ] as const)
      if (text.trim() !== '' && !(typedNumber(text) > 0))
        return {
          why: `The ${name} “${text}” is not a number above nought. Leave it empty for an order without a ${name}.`,
        }
  const made = parts.map((part, i): ExitPart => {
    const [stop, target] = [exit(part.stop, part.stopUnit), exit(part.target, part.targetUnit)]
    return {
      ...(stop ? { stop } : {}),
      ...(target ? { target } : {}),
      ...(i < parts.length - 1 ? { share: typedNumber(part.share) } : {}),
    }
  })
  if (alone && !made[0].stop && !made[0].target) return {}
  if (made.some(({ share = 1 }) => !(share > 0 && share < 100)))
    return { why: 'Fill in how many percent of it each part is, a number above nought and below 100.' }
  const kept = wrongSide === 'Refuse' && mayLieWrong(ticket) ? { wrongSide } : {}
  const exits = { ...(alone ? made[0] : { parts: made }), ...kept }
  const wrong = Exits.safeParse(exits).error?.issues[0]
  if (!wrong) return { exits }
  const [, at] = wrong.path
  return { why: `${typeof at === 'number' ? `Part ${at + 1} of the exits: ` : 'Exits: '}${wrong.message}.` }
}

const SIDES: Record<Ticket['direction'], Side> = { long: 'Buy', short: 'SellShort', close: 'Sell' }

/** The ticket as a draft, or which blank is not filled in. */
export function draftOf(ticket: Ticket): { draft: OrderDraft } | { why: string } {
  const size = typedNumber(ticket.size)
  const [price, trigger] = [typedNumber(ticket.price), typedNumber(ticket.trigger)]
  if (!(size > 0)) return { why: 'Fill in the size with a number above nought.' }
  if (hasStop(ticket.ordType) && !(trigger > 0)) return { why: 'Fill in the stop price.' }
  if (hasLimit(ticket.ordType) && !(price > 0)) return { why: 'Fill in the limit price.' }
  const trail = typedNumber(ticket.trail)
  if (ticket.ordType === 'TrailingStop' && !(trail > 0 && (ticket.trailUnit === 'amount' || trail < 100)))
    return { why: 'Fill in how far the stop stays behind, a number above nought.' }
  if (ticket.timeInForce === 'GoodTillDate' && ticket.expireDate === '')
    return { why: 'Choose the last day of the order.' }
  const closing = ticket.direction === 'close'
  const exits = closing ? {} : exitsOf(ticket)
  if ('why' in exits) return exits
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
      side: SIDES[ticket.direction],
      sizing,
      ordType: ticket.ordType,
      ...(hasLimit(ticket.ordType) ? { price } : {}),
      ...(hasStop(ticket.ordType) ? { stopPx: trigger } : {}),
      ...(ticket.ordType === 'TrailingStop'
        ? { trail: ticket.trailUnit === 'amount' ? { amount: trail } : { percent: trail } }
        : {}),
      timeInForce: ticket.timeInForce,
      ...(ticket.timeInForce === 'GoodTillDate' ? { expireDate: ticket.expireDate } : {}),
      ...exits,
      ...(ticket.after ? { triggerClOrdId: ticket.after } : {}),
      ...(ticket.link ? { clOrdLinkId: ticket.link } : {}),
    },
  }
}
