import { useState } from 'react'
import { parseTimeframe } from '@/core/market/timeframe'
import { type Never, type Plan, type PlanGate, type Side } from '@/core/plans/document'
import { type PlanIssue, planIssues } from '@/core/plans/check'
import { withOtherSide } from '@/core/plans/sides'
import { checkRule } from '@/core/rules'
import { RuleEditor } from '../find/RuleEditor'
import { tell } from '../shell/tell'
import { InlineAction, InlineChoice, InlineText } from '../ticket/Inline'
import { NumberBlank, TimeBlank } from './blanks'
import { DoPart, ThenPart } from './DoThen'
import css from './Plan.module.css'

const EVERY = ['1 min', '5 min', '15 min', '30 min', '1 hour', '1 day'] as const

interface Props {
  plan: Plan
  change(plan: Plan): void
}

/** A plan as prose, each blank filled in where it stands: what is of both sides first and last, each side between. */
export function Clauses({ plan, change }: Props) {
  const issues = planIssues(plan)
  const turn = () => {
    const both = withOtherSide(plan)
    if (both) change(both)
    else tell('Nothing in this condition has another side.')
  }
  return (
    <dl className={css.clauses}>
      <dt>When</dt>
      <dd>
        at the end of every{' '}
        <InlineChoice
          label="Bars of the condition"
          value={plan.sides[0].if.every}
          options={[...new Set([...EVERY, plan.sides[0].if.every])].map((one) => [one, one] as const)}
          onChange={(every) =>
            change({ ...plan, sides: plan.sides.map((one) => ({ ...one, if: { ...one.if, every } })) })
          }
        />{' '}
        bar, entering from{' '}
        <TimeBlank
          label="Enters from"
          none="the open"
          value={plan.when.from}
          onChange={(from) => change({ ...plan, when: { ...plan.when, from } })}
        />{' '}
        until{' '}
        <TimeBlank
          label="Enters until"
          none="the close"
          value={plan.when.until}
          onChange={(until) => change({ ...plan, when: { ...plan.when, until } })}
        />
      </dd>
      {plan.sides.map((_side, at) => (
        <SidePart key={at} plan={plan} at={at} issues={issues} change={change} />
      ))}
      <dt />
      <dd className={css.between}>
        {plan.sides.length > 1 ? (
          <>
            Where the other condition begins while something is held,{' '}
            <InlineChoice
              label="On the opposite signal"
              value={plan.opposite}
              options={[
                ['Ignore', 'do nothing'],
                ['Close', 'close it'],
                ['Turn', 'close it, and once that is filled open the other way'],
              ]}
              onChange={(opposite) => change({ ...plan, opposite })}
            />
            .{' '}
            <InlineAction
              label="Take the other side away"
              onAct={() => change({ ...plan, sides: [plan.sides[0]] })}
            >
              take the other side away
            </InlineAction>
          </>
        ) : (
          <InlineAction label="Add the other side" onAct={turn}>
            add the other side
          </InlineAction>
        )}
      </dd>
      <dt>Never</dt>
      <dd>
        <NeverPart never={plan.never} change={(never) => change({ ...plan, never })} />
        <Issues of="Never" issues={issues} />
      </dd>
    </dl>
  )
}

/** A plan with a part of one side changed. Two sides open opposite ways: where one is turned, the other is as well. */
function withSide(plan: Plan, at: number, part: Partial<Side>): Plan {
  const sides = plan.sides.map((one, i) => (i === at ? { ...one, ...part } : one))
  const { open } = sides[at].do
  return {
    ...plan,
    sides: sides.map((one, i) =>
      i !== at && one.do.open === open
        ? { ...one, do: { ...one.do, open: open === 'Long' ? 'Short' : 'Long' } }
        : one,
    ),
  }
}

/** The clauses of one side; of a second one each blank says which it is of. */
function SidePart({ plan, at, issues, change }: Props & { at: number; issues: readonly PlanIssue[] }) {
  const side = plan.sides[at]
  const own = issues.filter((issue) => issue.side === at)
  const put = (part: Partial<Side>) => change(withSide(plan, at, part))
  const of = at === 0 ? '' : ', other side'
  return (
    <>
      <dt>Among</dt>
      <dd>
        <SymbolList
          label={`Securities${of}`}
          list={side.among.list}
          change={(list) => put({ among: { list } })}
        />
      </dd>
      <dt>If</dt>
      <dd>
        <RuleEditor
          single
          value={side.if.rule}
          onChange={(rule) => put({ if: { ...side.if, rule: rule || ' ' } })}
          onRun={() => undefined}
          check={(text) => checkRule(text, parseTimeframe(side.if.every)!)}
          label={`Condition${of}`}
          hint="a rule, such as close crosses above sma(close, 20)"
        />
        <Issues of="If" issues={own} />
      </dd>
      <dt>Provided</dt>
      <dd>
        <Gates of={of} gates={side.provided} change={(provided) => put({ provided })} />
        <Issues of="Provided" issues={own} />
      </dd>
      <dt>Do</dt>
      <dd>
        <DoPart of={of} side={side} put={put} />
        <Issues of="Do" issues={own} />
      </dd>
      <dt>Then</dt>
      <dd>
        <ThenPart of={of} side={side} put={put} />
        <Issues of="Then" issues={own} />
      </dd>
    </>
  )
}

function Issues({ of, issues }: { of: PlanIssue['clause']; issues: readonly PlanIssue[] }) {
  return issues
    .filter(({ clause }) => clause === of)
    .map(({ text, is }) => (
      <p
        key={text}
        className={`${css.note} ${is === 'error' ? 'refusal' : 'warning'}`}
        style={{ fontSize: 13 }}
      >
        {text}
      </p>
    ))
}

/** Symbols between blanks or commas; an empty list changes nothing. */
function SymbolList({
  label,
  list,
  change,
}: {
  label: string
  list: readonly string[]
  change(list: string[]): void
}) {
  const [typed, setTyped] = useState<string>()
  const read = (text: string) => [
    ...new Set(
      text
        .toUpperCase()
        .split(/[\s,]+/)
        .filter(Boolean),
    ),
  ]
  return (
    <span onBlur={() => setTyped(undefined)}>
      <InlineText
        label={label}
        among={[]}
        most={4000}
        value={typed ?? list.join(', ')}
        onChange={(text) => {
          setTyped(text)
          if (read(text).length > 0) change(read(text))
        }}
      />
    </span>
  )
}

function Gates({
  of,
  gates,
  change,
}: {
  of: string
  gates: readonly PlanGate[]
  change(gates: PlanGate[]): void
}) {
  const at = (i: number, part: Partial<PlanGate>) =>
    change(gates.map((one, k) => (k === i ? { ...one, ...part } : one)))
  return (
    <>
      {gates.map((gate, i) => (
        <span key={i} style={{ display: 'block' }}>
          <InlineText
            label={`Name of gate ${i + 1}${of}`}
            among={[]}
            value={gate.name}
            onChange={(name) => name && at(i, { name })}
          />
          {': '}
          <span className="mono" style={{ fontSize: 14 }}>
            <InlineText
              label={`Rule of gate ${i + 1}${of}`}
              among={GATES}
              most={400}
              value={gate.rule}
              onChange={(rule) => at(i, { rule: rule || ' ' })}
            />
          </span>{' '}
          <InlineAction
            label={`Take gate ${i + 1} away${of}`}
            onAct={() => change(gates.filter((_, k) => k !== i))}
          >
            take away
          </InlineAction>
        </span>
      ))}
      {gates.length === 0 && 'nothing more '}
      <InlineAction
        label={`Add a gate${of}`}
        onAct={() => change([...gates, { name: 'largest order', rule: 'order value <= 5000' }])}
      >
        add a gate
      </InlineAction>
    </>
  )
}
const GATES = ['order value <= 5000', 'quoted spread <= 0.3%', 'order loss <= 100', 'price away <= 2%']

function NeverPart({ never, change }: { never: Never; change(never: Never): void }) {
  const blank = (label: string, name: keyof Never, whole = false) => (
    <NumberBlank
      label={label}
      value={never[name]}
      onChange={(value) =>
        change({ ...never, [name]: value !== undefined && whole ? Math.max(1, Math.round(value)) : value })
      }
    />
  )
  return (
    <>
      more than {blank('Entries a day in one security', 'entriesPerSecurityAndDay', true)} entries a day in
      one security or {blank('Entries a day', 'entriesPerDay', true)} in all, more than{' '}
      {blank('Most in one security', 'exposurePerSecurity')} money in one security or{' '}
      {blank('Most in all', 'exposure')} in all, after a loss of {blank('Most lost in a day', 'lossPerDay')}{' '}
      in a day, or on quotes older than{' '}
      <NumberBlank
        label="Oldest quote"
        needed
        value={never.quoteAge}
        onChange={(value) => change({ ...never, quoteAge: Math.max(1, Math.round(value!)) })}
      />{' '}
      seconds
    </>
  )
}
