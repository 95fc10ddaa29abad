import { priceText } from '@/core/market/money'
import { type Drafted } from '@/core/orders/draft'
import { hasLimit, hasStop, isInAuction, type OrdType, waitsForPrice } from '@/core/orders/model'
import { ExitsPart } from './ExitsPart'
import { InlineChoice, InlineDate, InlineNumber } from './Inline'
import css from './Ticket.module.css'
import { TiesPart } from './TiesPart'
import { type Ticket, withType } from './ticketStore'

const LASTING = [
  ['Day', 'for the day'],
  ['GoodTillCancel', 'as long as it takes'],
  ['GoodTillDate', 'until the end of'],
] as const

const NOT_WAITING = [
  ['ImmediateOrCancel', 'this moment, what there is'],
  ['FillOrKill', 'this moment, all or nothing'],
  ['AtTheOpening', 'in the next opening auction'],
  ['AtTheClose', 'in the next closing auction'],
] as const

interface Props {
  ticket: Ticket
  change(part: Partial<Ticket>): void
  drafted?: Drafted
}

/** An order as a sentence whose variable parts are filled in where they stand. */
export function Sentence({ ticket, change, drafted }: Props) {
  const closing = ticket.direction === 'close'
  return (
    <p className={css.sentence}>
      <InlineChoice
        label="Direction"
        value={ticket.direction}
        options={[
          ['long', 'Buy'],
          ['short', 'Sell short'],
          ['close', 'Sell held'],
        ]}
        onChange={(direction) =>
          change(
            direction === 'close' && ticket.sizeBy === 'risk'
              ? { direction, sizeBy: 'shares', size: '' }
              : { direction },
          )
        }
      />{' '}
      {drafted ? <strong>{drafted.order.orderQty}</strong> : '…'} {ticket.symbol},{' '}
      {ticket.sizeBy === 'shares' ? 'that is' : 'with'}{' '}
      <InlineNumber label="Size" value={ticket.size} onChange={(size) => change({ size })} />{' '}
      <InlineChoice
        label="Size is measured in"
        value={ticket.sizeBy}
        options={
          closing
            ? [
                ['shares', 'shares'],
                ['equity', '% of equity'],
                ['money', 'in money'],
              ]
            : [
                ['risk', '% of equity at risk'],
                ['shares', 'shares'],
                ['equity', '% of equity'],
                ['money', 'in money'],
              ]
        }
        onChange={(sizeBy) => change({ sizeBy })}
      />
      , <Price ticket={ticket} change={change} drafted={drafted} />, good{' '}
      <InlineChoice
        label="Good for"
        value={ticket.timeInForce}
        options={[...LASTING, ...(waitsForPrice(ticket.ordType) ? [] : NOT_WAITING)]}
        onChange={(timeInForce) => change({ timeInForce })}
      />
      {ticket.timeInForce === 'GoodTillDate' && (
        <>
          {' '}
          <InlineDate
            label="Last day"
            value={ticket.expireDate}
            onChange={(expireDate) => change({ expireDate })}
          />
        </>
      )}
      {closing ? '. ' : <ExitsPart ticket={ticket} change={change} drafted={drafted} />}{' '}
      <TiesPart ticket={ticket} change={change} />
    </p>
  )
}

/** At which price: the market, or what it waits for. */
function Price({ ticket, change, drafted }: Props) {
  const bad = (text: string) => text !== '' && !(Number(text) > 0)
  return (
    <>
      at{' '}
      <InlineChoice
        label="Order type"
        value={ticket.ordType}
        options={ORDER_TYPES}
        onChange={(ordType) => change(withType(ordType, ticket))}
      />
      {hasStop(ticket.ordType) && (
        <>
          {ticket.ordType === 'StopLimit' ? ' from ' : ' '}
          <InlineNumber
            label="Stop price"
            value={ticket.trigger}
            onChange={(trigger) => change({ trigger })}
            bad={bad(ticket.trigger)}
          />
        </>
      )}
      {ticket.ordType === 'TrailingStop' && (
        <>
          {' '}
          <InlineNumber
            label="Stays behind"
            value={ticket.trail}
            onChange={(trail) => change({ trail })}
            bad={bad(ticket.trail)}
          />{' '}
          <InlineChoice
            label="Stays behind is measured in"
            value={ticket.trailUnit}
            options={[
              ['percent', '%'],
              ['amount', 'money a share'],
            ]}
            onChange={(trailUnit) => change({ trailUnit })}
          />{' '}
          {ticket.direction === 'long' ? 'above the lowest price' : 'below the highest price'}
          {drafted && <span className={css.aside}> now {priceText(drafted.entry)}</span>}
        </>
      )}
      {hasLimit(ticket.ordType) && (
        <>
          {ticket.ordType !== 'StopLimit'
            ? ' '
            : ticket.direction === 'long'
              ? ', no higher than '
              : ', no lower than '}
          <InlineNumber
            label="Limit price"
            value={ticket.price}
            onChange={(price) => change({ price })}
            bad={bad(ticket.price)}
          />
        </>
      )}
      {isInAuction(ticket.timeInForce) && ticket.ordType === 'Market' && ' of the auction'}
    </>
  )
}

const ORDER_TYPES: readonly (readonly [OrdType, string])[] = [
  ['Market', 'the market'],
  ['Limit', 'limit'],
  ['Stop', 'stop'],
  ['StopLimit', 'stop limit'],
  ['TrailingStop', 'a stop that trails'],
]
