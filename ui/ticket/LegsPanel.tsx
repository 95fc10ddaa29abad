'use client'
import { Button } from '@mantine/core'
import { getHotkeyHandler, useHotkeys } from '@mantine/hooks'
import { useEffect, useRef, useState } from 'react'
import { BrokerProblem } from '@/client'
import { decimal, priceText } from '@/core/market/money'
import { netText } from '@/core/options/words'
import { type Leg } from '@/core/orders/legs'
import { type Check } from '@/core/orders/checks'
import { priceQuestion } from '@/core/orders/priceQuestion'
import { sayFinding } from '@/core/orders/say'
import { dealtAt, netE4 } from '@/core/orders/netPrice'
import { Chain } from '../desk/Chain'
import { useWhere } from '../link/connection'
import { useBroker, useMoney, useOptions, usePositions, useQuotes } from '../link/LinkProvider'
import { Checks } from './Checks'
import { LegLine } from './LegLine'
import { Refusal } from './Refusal'
import { InlineChoice, InlineNumber } from './Inline'
import { contractOf, legsOf, type LegsTicket, orderOf, useLegs } from './legsStore'
import css from './Ticket.module.css'
import { useTicket } from './ticketStore'
import { useDispatch } from './useDispatch'

type Quotes = Readonly<Record<string, { bid: number; ask: number } | undefined>>

type Outcome =
  | { is: 'checked'; accepted: boolean; checks: Check[] }
  | { is: 'asks'; question: Check }
  | { is: 'refused'; problem: BrokerProblem }

/** Option contracts, one to four as one order, written as a sentence. */
export function LegsPanel({ ticket }: { ticket: LegsTicket }) {
  const { underlying, legs } = ticket
  const broker = useBroker()
  const where = useWhere()
  const chain = useOptions(underlying).data
  const positions = usePositions().data
  const contracts = legs.map((leg) => contractOf(leg, chain ?? []))
  const symbols = contracts.flatMap((one) => one?.symbol ?? [])
  const quotes = useQuotes([underlying, ...symbols])
  const [outcome, setOutcome] = useState<Outcome>()
  const [busy, setBusy] = useState(false)
  const { change, changeLeg, add, remove, renew, close, dispatched } = useLegs.getState()
  const { sent, isSending, send } = useDispatch(ticket, dispatched)
  const heldOf = (symbol: string) => positions?.find((one) => one.symbol === symbol)?.quantity ?? 0
  const asked = orderOf(ticket, chain ?? [], heldOf)
  const order = 'order' in asked ? asked.order : undefined
  // A check is of the order as it was written then.
  const written = JSON.stringify({ ...ticket, clOrdId: '', dispatch: undefined })
  useEffect(() => setOutcome(undefined), [written])

  const question =
    order &&
    priceQuestion(order, {
      ...quotes[order.symbol],
      currency: contracts[0]?.currency ?? 'USD',
      legs: order.legs?.map(({ symbol }) => quotes[symbol]),
    })
  const act = async (what: 'check' | 'send' | 'send all the same') => {
    if (!order || busy || isSending || sent) return
    if (what === 'send' && question) return setOutcome({ is: 'asks', question: sayFinding(question) })
    setBusy(true)
    try {
      if (what === 'check') setOutcome({ is: 'checked', ...(await broker.check(order)) })
      else {
        const problem = await send(order)
        setOutcome(problem && { is: 'refused', problem })
      }
    } catch (error) {
      if (!(error instanceof BrokerProblem)) throw error
      setOutcome({ is: 'refused', problem: error })
    } finally {
      setBusy(false)
    }
  }

  const closeTicket = () => {
    // Legs that were not sent stay written down, for when the ticket is opened again.
    if (sent) close()
    useTicket.getState().close()
  }
  // The keys of the ticket work as soon as it opens.
  const section = useRef<HTMLElement>(null)
  useEffect(() => void section.current?.focus(), [underlying])
  useHotkeys([['Escape', closeTicket]])

  const last = quotes[underlying]?.last
  return (
    <section
      ref={section}
      className={css.ticket}
      aria-label="Options ticket"
      tabIndex={-1}
      onKeyDown={getHotkeyHandler([
        ['mod+Enter', () => void act('send')],
        ['Escape', closeTicket],
      ])}
    >
      <div className={css.head}>
        <h2>Options of {underlying}</h2>
        <span style={{ whiteSpace: 'nowrap' }}>
          <Button variant="subtle" onClick={close} px={8}>
            Shares
          </Button>
          <Button variant="subtle" onClick={closeTicket} px={8}>
            Close
          </Button>
        </span>
      </div>
      <p className="soft">{last ? `${underlying} last ${priceText(last)}` : 'asking …'}</p>
      {chain?.length === 0 ? (
        <p>There are no options of {underlying}. It trades too little for them.</p>
      ) : (
        <>
          <fieldset className={css.plain} disabled={isSending || sent !== undefined}>
            <p className={css.sentence}>
              <InlineNumber
                label="How many"
                value={ticket.quantity}
                onChange={(quantity) => change({ quantity })}
              />{' '}
              {legs.length > 1 ? 'of these together:' : 'of'}
            </p>
            <ol className={css.legs}>
              {legs.map((leg, i) => (
                <LegLine
                  key={i}
                  leg={leg}
                  at={i + 1}
                  chain={chain ?? []}
                  last={last}
                  quote={quotes[contracts[i]?.symbol ?? '']}
                  held={heldOf(contracts[i]?.symbol ?? '')}
                  alone={legs.length === 1}
                  onChange={(part) => changeLeg(i, part)}
                  onRemove={() => remove(i)}
                />
              ))}
            </ol>
            {legs.length < 4 && (
              <Button variant="default" size="compact-sm" onClick={add}>
                Add a leg
              </Button>
            )}
            <Terms ticket={ticket} legs={legsOf(ticket, chain ?? [], heldOf)} quotes={quotes} />
          </fieldset>
          {!sent && 'why' in asked && (
            <p role="status" className="warning">
              {asked.why}
            </p>
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
                  <Button onClick={() => act('send')} disabled={!order} loading={isSending}>
                    Send to {where}
                  </Button>
                )}
                <Button variant="default" onClick={() => act('check')} disabled={!order || isSending}>
                  Check only
                </Button>
              </>
            )}
          </div>
        </>
      )}
      {sent ? (
        <p role="status" className={css.sent}>
          Sent to {sent.where}: <Chain order={sent.order} />
        </p>
      ) : (
        outcome && <Result outcome={outcome} />
      )}
    </section>
  )
}

/** At what price, and what the legs come to now. */
function Terms({ ticket, legs, quotes }: { ticket: LegsTicket; legs?: Leg[]; quotes: Quotes }) {
  const { change } = useLegs.getState()
  const money = useMoney()
  const known = legs?.every(({ symbol }) => quotes[symbol])
  const at = (which: 'now' | 'middle') =>
    netE4(legs!, ({ symbol, legSide }) => {
      const { bid, ask } = quotes[symbol]!
      return Math.round(10_000 * (which === 'middle' ? (bid + ask) / 2 : dealtAt(legSide, { bid, ask })))
    }) / 10_000
  const units = Number(ticket.quantity) || 0
  return (
    <>
      <p className={css.sentence}>
        at{' '}
        <InlineChoice
          label="Order type"
          value={ticket.ordType}
          options={[
            ['Limit', ticket.legs.length > 1 ? 'a net price' : 'limit'],
            ['Market', 'the market'],
          ]}
          onChange={(ordType) => change({ ordType })}
        />
        {ticket.ordType === 'Limit' && (
          <>
            {' '}
            <InlineNumber label="Net price" value={ticket.net} onChange={(net) => change({ net })} />
            {ticket.legs.length > 1 && (
              <>
                {' '}
                <InlineChoice
                  label="The net price is"
                  value={ticket.netIs}
                  options={[
                    ['paid', 'paid'],
                    ['received', 'received'],
                  ]}
                  onChange={(netIs) => change({ netIs })}
                />
              </>
            )}
          </>
        )}
        , good{' '}
        <InlineChoice
          label="Good for"
          value={ticket.timeInForce}
          options={[
            ['Day', 'for the day'],
            ['GoodTillCancel', 'as long as it takes'],
          ]}
          onChange={(timeInForce) => change({ timeInForce })}
        />
        .
      </p>
      {legs && known && (
        <dl className={css.facts}>
          <dt>Now</dt>
          <dd>
            {netText(at('now'))} · {money(Math.abs(at('now')) * 100 * units)} in all
          </dd>
          <dt>In the middle</dt>
          <dd>
            {netText(at('middle'))}{' '}
            <button
              type="button"
              className={css.remove}
              onClick={() => {
                const middle = Math.round(at('middle') * 100) / 100
                change({
                  ordType: 'Limit',
                  net: decimal(Math.abs(middle), 2).replaceAll(',', ''),
                  netIs: middle < 0 ? 'received' : 'paid',
                })
              }}
            >
              ask for this
            </button>
          </dd>
        </dl>
      )}
    </>
  )
}

function Result({ outcome }: { outcome: Outcome }) {
  if (outcome.is === 'refused') {
    return (
      <div role="alert">
        <Refusal problem={outcome.problem} />
      </div>
    )
  }
  if (outcome.is === 'asks')
    return (
      <div role="alert">
        <h3>Nothing was sent yet</h3>
        <Checks checks={[outcome.question]} />
      </div>
    )
  return (
    <div role="status">
      <h3>
        {outcome.accepted ? 'It would be taken; nothing was sent' : 'It would be refused; nothing was sent'}
      </h3>
      <Checks checks={outcome.checks} />
    </div>
  )
}
