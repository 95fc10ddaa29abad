import { isWorking } from '@/core/orders/model'
import { orderText } from '../desk/orderText'
import { useOrders } from '../link/LinkProvider'
import { InlineChoice, InlineText } from './Inline'
import css from './Ticket.module.css'
import { type Ticket } from './ticketStore'

interface Props {
  ticket: Ticket
  change(part: Partial<Ticket>): void
}

/** What an order has to do with others: the one that sets it off, and those of which one ends the rest. */
export function TiesPart({ ticket, change }: Props) {
  const working = (useOrders().data ?? []).filter((order) => isWorking(order.ordStatus))
  const entries = working.filter((order) => order.parentOrderId === undefined)
  const links = [...new Set(working.flatMap(({ clOrdLinkId }) => clOrdLinkId ?? []))]
  const { after, link, clOrdId } = ticket
  const known = entries.some((order) => order.clOrdId === after)
  return (
    <span className={css.ties}>
      Send it{' '}
      <InlineChoice
        label="Sent when"
        value={after}
        options={[
          ['', 'now'],
          ...entries.map(
            (order) => [order.clOrdId, `once filled: ${orderText(order)} ${order.symbol}`] as const,
          ),
          ...(after && !known ? [[after, `once ${after} is filled, which works no more`] as const] : []),
        ]}
        onChange={(next) => change({ after: next })}
      />
      {', '}
      <InlineChoice
        label="Tied to others"
        value={link ? 'tied' : ''}
        options={[
          ['', 'on its own'],
          ['tied', 'as one of those'],
        ]}
        onChange={(tied) => change({ link: tied ? (links[0] ?? `either-${clOrdId.slice(-5)}`) : '' })}
      />
      {link && (
        <>
          {' named '}
          <InlineText
            label="Name of the tie"
            value={link}
            among={links}
            onChange={(next) => change({ link: next })}
          />
          , of which the first that trades ends the others (
          {tiedText(working.filter((order) => order.clOrdLinkId === link).length)})
        </>
      )}
      .
    </span>
  )
}

const tiedText = (count: number): string =>
  count === 0 ? 'none works under it yet' : `${count} ${count === 1 ? 'works' : 'work'} under it now`
