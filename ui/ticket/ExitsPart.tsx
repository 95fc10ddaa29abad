import { decimal, priceText } from '@/core/market/money'
import { type Drafted, type DraftedPart } from '@/core/orders/draft'
import { type Level } from '@/core/orders/levels'
import { InlineAction, InlineChoice, InlineNumber } from './Inline'
import css from './Ticket.module.css'
import { mayLieWrong } from './ticketDraft'
import {
  changedPart,
  type ExitUnit,
  restOf,
  splitPart,
  type Ticket,
  type TicketPart,
  withoutPart,
} from './ticketStore'

const EXIT_UNITS: readonly (readonly [ExitUnit, string])[] = [
  ['percent', '%'],
  ['ticks', 'ticks'],
  ['amount', 'money a share'],
  ['total', 'money in all'],
  ['price', 'as a price'],
]
const TARGET_UNITS = [...EXIT_UNITS, ['risk', 'times the risk']] as const
const STOP_UNITS = [...EXIT_UNITS, ['trail', '% behind the best price']] as const

const signed = (level: Level): string => `${level.percent < 0 ? '' : '+'}${decimal(level.percent)} %`

/** The readings of a level beside the one that was typed. */
function Reading({ level, unit }: { level?: Level; unit: ExitUnit }) {
  if (!level) return null
  const parts = [
    unit !== 'price' && priceText(level.price),
    unit !== 'percent' && unit !== 'trail' && signed(level),
    unit !== 'ticks' && `${Math.abs(level.ticks)} ticks`,
  ]
  return <span className={css.aside}>{parts.filter(Boolean).join(' · ')}</span>
}

interface Props {
  ticket: Ticket
  change(part: Partial<Ticket>): void
  drafted?: Drafted
}

/** How to get out again: with all of it, or with a part here and a part there. */
export function ExitsPart({ ticket, change, drafted }: Props) {
  const { parts } = ticket
  const several = parts.length > 1
  const measured = parts.some((part) => part.stopUnit !== 'price' || part.targetUnit !== 'price')
  const changeAt = (at: number, some: Partial<TicketPart>) => change({ parts: changedPart(parts, at, some) })
  return (
    <>
      ; then leave{several ? ' in parts:' : ' '}
      {parts.map((part, i) => (
        <span key={i} className={several ? css.part : undefined}>
          {several && (
            <Share
              part={part}
              at={i}
              last={i === parts.length - 1}
              rest={restOf(parts)}
              shares={drafted?.parts[i]?.quantity}
              onChange={(share) => changeAt(i, { share })}
            />
          )}
          <Levels
            part={part}
            named={several ? ` of part ${i + 1}` : ''}
            drafted={drafted?.parts[i]}
            onChange={(some) => changeAt(i, some)}
          />
          {several && (
            <InlineAction
              label={`Take part ${i + 1} away`}
              onAct={() => change({ parts: withoutPart(parts, i) })}
            >
              take away
            </InlineAction>
          )}
          {!several ? '' : i < parts.length - 1 ? ';' : '.'}
        </span>
      ))}
      {measured ? `${several ? 'Levels are' : ','} measured from the fill` : ''}
      {mayLieWrong(ticket) && (
        <>
          {!several ? '; where' : measured ? '; where' : 'Where'} the fill puts one on the wrong side,{' '}
          <InlineChoice
            label="A level on the wrong side"
            value={ticket.wrongSide}
            options={[
              ['LeaveAtOnce', 'leave at once'],
              ['Refuse', 'do not trade'],
            ]}
            onChange={(wrongSide) => change({ wrongSide })}
          />
        </>
      )}
      .{' '}
      {parts.length < 4 && (
        <InlineAction label="Leave in parts" onAct={() => change({ parts: splitPart(parts) })}>
          {several ? 'another part' : 'leave in parts'}
        </InlineAction>
      )}
    </>
  )
}

/** "50 % of it", or of the last part "the rest". */
function Share(props: {
  part: TicketPart
  at: number
  last: boolean
  rest: number
  shares: number | undefined
  onChange(share: string): void
}) {
  const { part, at, last, rest, shares, onChange } = props
  const much = shares === undefined ? '' : ` · ${decimal(shares, 0)}`
  if (last)
    return (
      <>
        with the rest <span className={css.aside}>{`${Math.max(0, +rest.toFixed(2))} %${much}`}</span>{' '}
      </>
    )
  return (
    <>
      with <InlineNumber label={`Share of part ${at + 1}`} value={part.share} onChange={onChange} /> %{' '}
      <span className={css.aside}>{much}</span>{' '}
    </>
  )
}

/** "at a target of 7 % or a stop of 3 %". */
function Levels(props: {
  part: TicketPart
  named: string
  drafted: DraftedPart | undefined
  onChange(part: Partial<TicketPart>): void
}) {
  const { part, named, drafted, onChange } = props
  const { target, targetUnit, stop, stopUnit } = part
  return (
    <>
      at a target of{' '}
      <InlineNumber label={`Target${named}`} value={target} onChange={(text) => onChange({ target: text })} />{' '}
      <InlineChoice
        label={`Target${named} is measured in`}
        value={targetUnit}
        options={TARGET_UNITS}
        onChange={(unit) => onChange({ targetUnit: unit })}
      />{' '}
      <Reading level={drafted?.target} unit={targetUnit} /> or a stop of{' '}
      <InlineNumber label={`Stop${named}`} value={stop} onChange={(text) => onChange({ stop: text })} />{' '}
      <InlineChoice
        label={`Stop${named} is measured in`}
        value={stopUnit}
        options={STOP_UNITS}
        onChange={(unit) => onChange({ stopUnit: unit })}
      />{' '}
      <Reading level={drafted?.stop} unit={stopUnit} />
    </>
  )
}
