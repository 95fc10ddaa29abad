'use client'
import { Button, Kbd } from '@mantine/core'
import { getHotkeyHandler, useHotkeys } from '@mantine/hooks'
import { useEffect, useRef, useState } from 'react'
import { decimal, priceText } from '@/core/market/money'
import { rateInto } from '@/core/market/rates'
import { draftOrder, type Drafted } from '@/core/orders/draft'
import { initialShare } from '@/core/orders/margin'
import { type Order } from '@/core/orders/model'
import { type Check } from '@/core/orders/checks'
import { priceQuestion } from '@/core/orders/priceQuestion'
import { sayFinding } from '@/core/orders/say'
import {
  useAccount,
  useBroker,
  useMoney,
  useOrders,
  usePositions,
  useQuote,
  useRates,
  useSecurities,
} from '../link/LinkProvider'
import { useConnection, useWhere } from '../link/connection'
import { BrokerProblem } from '@/client'
import { Chain } from '../desk/Chain'
import { Checks } from './Checks'
import { Refusal } from './Refusal'
import { Sentence } from './Sentence'
import css from './Ticket.module.css'
import { LegsPanel } from './LegsPanel'
import { useLegs } from './legsStore'
import { draftOf } from './ticketDraft'
import { type Ticket, useTicket } from './ticketStore'
import { useDispatch } from './useDispatch'

type Outcome =
  | { is: 'checked'; accepted: boolean; checks: Check[]; drafted: Drafted }
  | { is: 'asks'; question: Check }
  | { is: 'refused'; problem: BrokerProblem }

/** An order as a sentence, what it costs and risks, a dry run, and the button that sends it. */
export function TicketPanel() {
  const ticket = useTicket((s) => s.ticket)
  const legs = useLegs((s) => s.ticket)
  if (!ticket) return null
  return legs?.underlying === ticket.symbol ? <LegsPanel ticket={legs} /> : <Open ticket={ticket} />
}

function Open({ ticket }: { ticket: Ticket }) {
  const broker = useBroker()
  const where = useWhere()
  const { renew, close, dispatched } = useTicket.getState()
  const security = useSecurities().data?.find((s) => s.symbol === ticket.symbol)
  const quote = useQuote(ticket.symbol)
  const account = useAccount().data
  const sharesHeld = usePositions().data?.find((p) => p.symbol === ticket.symbol)?.quantity ?? 0
  const [outcome, setOutcome] = useState<Outcome>()
  const [busy, setBusy] = useState(false)

  const { sent, isSending, send } = useDispatch(ticket, dispatched)

  // A check is of the order as it was written then.
  const change = (part: Partial<Ticket>) => {
    setOutcome(undefined)
    useTicket.getState().change(part)
  }

  const rates = useRates().data
  const rate = security && account ? rateInto(rates ?? [], security.currency, account.currency) : undefined
  const asked = draftOf(ticket)
  const drafted =
    'draft' in asked
      ? security && account && rate !== undefined
        ? draftOrder(asked.draft, {
            security,
            bid: quote?.bid,
            ask: quote?.ask,
            last: quote?.last,
            equity: account.equity,
            buyingPower: account.buyingPower,
            sharesHeld,
            share: initialShare(account.rules),
            rate,
          })
        : { why: 'Waiting for the account and the security.' }
      : { why: asked.why }
  const ready = 'order' in drafted ? drafted : undefined

  const question =
    ready && priceQuestion(ready.order, { bid: quote?.bid, ask: quote?.ask, currency: security!.currency })

  const act = async (what: 'check' | 'send' | 'send all the same') => {
    if (!ready || busy || isSending || sent) return
    if (what === 'send' && question) return setOutcome({ is: 'asks', question: sayFinding(question) })
    setBusy(true)
    try {
      if (what === 'check')
        setOutcome({ is: 'checked', drafted: ready, ...(await broker.check(ready.order)) })
      else {
        const problem = await send(ready.order)
        setOutcome(problem && { is: 'refused', problem })
      }
    } catch (error) {
      if (!(error instanceof BrokerProblem)) throw error
      setOutcome({ is: 'refused', problem: error })
    } finally {
      setBusy(false)
    }
  }

  // The keys of the ticket work as soon as it opens.
  const section = useRef<HTMLElement>(null)
  useEffect(() => void section.current?.focus(), [ticket.symbol])
  useHotkeys([['Escape', close]])

  return (
    <section
      ref={section}
      tabIndex={-1}
      className={css.ticket}
      aria-label="Order ticket"
      onKeyDown={getHotkeyHandler([
        ['mod+Enter', () => void act('send')],
        ['Escape', close],
      ])}
    >
      <div className={css.head}>
        <h2>New order</h2>
        <span>
          <Button variant="subtle" onClick={() => useLegs.getState().open(ticket.symbol)}>
            Options of it
          </Button>
          <Button variant="subtle" onClick={close}>
            Close
          </Button>
        </span>
      </div>
      {security && (
        <p className="soft">
          {security.name}
          {quote ? ` · bid ${priceText(quote.bid)} · ask ${priceText(quote.ask)}` : ''}
          {sharesHeld !== 0 ? ` · ${sharesHeld} held` : ''}
        </p>
      )}
      {/* What was sent is not written on: another order is begun on purpose. */}
      <fieldset className={css.plain} disabled={isSending || sent !== undefined}>
        <Sentence ticket={ticket} change={change} drafted={ready} />
      </fieldset>
      {sent ? null : 'why' in drafted ? (
        <p role="status" className="warning" style={{ margin: '8px 0' }}>
          {drafted.why}
        </p>
      ) : (
        <Facts drafted={drafted} />
      )}
      <div className={css.actions}>
        {sent ? (
          <Button variant="default" onClick={renew}>
            Another order like it
          </Button>
        ) : (
          <>
            {outcome?.is === 'asks' ? (
              <Button onClick={() => act('send all the same')} loading={isSending}>
                Send it all the same
              </Button>
            ) : (
              <Button onClick={() => act('send')} disabled={!ready} loading={isSending}>
                Send to {where}&nbsp;<Kbd size="xs">Ctrl ↵</Kbd>
              </Button>
            )}
            <Button variant="default" onClick={() => act('check')} disabled={!ready || isSending}>
              Check only
            </Button>
          </>
        )}
      </div>
      {isSending && (
        <p role="status" className="soft">
          Sent to {ticket.dispatch!.where}; waiting for the broker’s answer …
        </p>
      )}
      {sent ? <Sent {...sent} /> : outcome && <Result outcome={outcome} />}
    </section>
  )
}

const exits = ({ parts }: Drafted, which: 'stop' | 'target'): boolean =>
  parts.some((part) => part[which] !== undefined)

function Facts({ drafted }: { drafted: Drafted }) {
  const money = useMoney()
  return (
    <>
      <h3 style={{ marginTop: 10 }}>What it does</h3>
      <dl className={css.facts}>
        <dt>{drafted.order.side === 'Buy' ? 'Costs' : 'Brings in'}</dt>
        <dd>
          {money(drafted.cost)} {drafted.order.side === 'Buy' ? '+' : '−'} {money(drafted.commission)}
        </dd>
        <dt>Buying power after</dt>
        <dd className={drafted.buyingPowerAfter < 0 ? 'refusal' : undefined}>
          {money(drafted.buyingPowerAfter)}
        </dd>
        {drafted.loss !== undefined && (
          <>
            <dt>Loses at {drafted.parts.length > 1 ? 'its stops' : 'the stop'}</dt>
            <dd>
              {money(drafted.loss)}, {decimal(drafted.lossPercent)} % of equity
            </dd>
          </>
        )}
        {drafted.gain !== undefined && (
          <>
            <dt>Gains at {drafted.parts.length > 1 ? 'its targets' : 'the target'}</dt>
            <dd>{money(drafted.gain)}</dd>
          </>
        )}
        {drafted.parts.length > 0 && (
          <>
            <dt>{exits(drafted, 'stop') ? 'Stop lives' : 'Target lives'}</dt>
            <dd>
              at the broker
              {exits(drafted, 'stop') && exits(drafted, 'target') ? ', one cancels the other' : ''}
              {drafted.parts.length > 1 ? ' of the same part' : ''}
            </dd>
          </>
        )}
      </dl>
    </>
  )
}

function Result({ outcome }: { outcome: Outcome }) {
  const broker = useBroker()
  const place = useRef<HTMLDivElement>(null)
  useEffect(() => void place.current?.scrollIntoView({ block: 'nearest' }), [outcome])
  if (outcome.is === 'refused') {
    return (
      <div role="alert" ref={place}>
        <Refusal problem={outcome.problem} />
      </div>
    )
  }
  if (outcome.is === 'asks')
    return (
      <div role="alert" ref={place}>
        <h3>Nothing was sent yet</h3>
        <Checks checks={[outcome.question]} />
      </div>
    )
  return (
    <div role="status" ref={place}>
      <h3>
        {outcome.accepted ? 'It would be taken; nothing was sent' : 'It would be refused; nothing was sent'}
      </h3>
      <Checks checks={outcome.checks} />
      <h3>Exactly this would be sent</h3>
      <pre
        className={css.payload}
      >{`POST /${useConnection.getState().environment}/orders\n${JSON.stringify(broker.asSent(outcome.drafted.order), null, 2)}`}</pre>
    </div>
  )
}

/** The order that the ticket has become, with its exits. */
function Sent({ order, where }: { order: Order; where: string }) {
  const exits = useOrders().data?.filter((one) => one.parentOrderId === order.orderId) ?? []
  const place = useRef<HTMLDivElement>(null)
  useEffect(() => void place.current?.scrollIntoView({ block: 'nearest' }), [order.orderId])
  return (
    <div role="status" className={css.sent} ref={place}>
      <p>
        Sent to {where}: <Chain order={order} />
      </p>
      {exits.map((exit) => (
        <p key={exit.orderId} className="soft">
          {exit.role} {priceText(exit.stopPx ?? exit.price)}: <Chain order={exit} />
        </p>
      ))}
    </div>
  )
}
