import { parseTimeframe } from '@/core/market/timeframe'
import { type Plan, type PlanGate, type Side } from '@/core/plans/document'
import { planIssues } from '@/core/plans/check'
import { type PlanIssue } from '@/core/plans/issue'
import { withOtherSide } from '@/core/plans/sides'
import { withValues } from '@/core/plans/inputs'
import { looksAtEvents } from '@/core/plans/looks'
import { checkRule, type Checked } from '@/core/rules'
import { RuleEditor } from '../find/RuleEditor'
import { tell } from '../shell/tell'
import { InlineAction, InlineChoice, InlineText } from '../ticket/Inline'
import { NumberBlank } from './blanks'
import { AmongPart } from './AmongPart'
import { DoPart } from './DoPart'
import { EventsPart } from './EventsPart'
import { freshInput, InputsPart } from './InputsPart'
import { NeverPart } from './NeverPart'
import { ScorePart } from './ScorePart'
import { SeenRulePart } from './SeenRulePart'
import { ThenPart } from './ThenPart'
import { WhenPart } from './WhenPart'
import css from './Plan.module.css'

interface Props {
  plan: Plan
  /** What is wrong with it, with everything that it carries. */
  issues?: readonly PlanIssue[]
  /** Bars that it carries, in sentences. */
  carries?: readonly string[]
  change(plan: Plan): void
}

/** A plan as prose, each blank filled in where it stands: what is of both sides first and last, each side between. */
export function Clauses({ plan, issues = planIssues(plan), carries, change }: Props) {
  const turn = () => {
    const both = withOtherSide(plan)
    if (both) change(both)
    else tell('Nothing in this condition has another side.')
  }
  return (
    <dl className={css.clauses}>
      <InputsPart plan={plan} change={change} />
      <dt>When</dt>
      <dd>
        <WhenPart plan={plan} change={change} />
        {looksAtEvents(plan.when.look) && <EventsPart plan={plan} change={change} />}
      </dd>
      {plan.sides.map((_side, at) => (
        <SidePart key={at} plan={plan} at={at} issues={issues} carries={carries} change={change} />
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
        )}{' '}
        <span style={{ display: 'block' }}>
          If you change its position or an order by hand, the plan{' '}
          <InlineChoice
            label="Changed by hand"
            value={plan.byHand ?? 'StandStill'}
            options={[
              ['StandStill', 'leaves that security alone until you hand it back'],
              ['TakeOver', 'takes your change over'],
              ['LetGo', 'gives it up, and withdraws its own stop and target'],
            ]}
            onChange={(byHand) => change({ ...plan, byHand })}
          />
          .
        </span>
        <InlineAction
          label="Add an input"
          onAct={() => change({ ...plan, inputs: [...(plan.inputs ?? []), freshInput(plan)] })}
        >
          name a value
        </InlineAction>
      </dd>
      <dt>Never</dt>
      <dd>
        <NeverPart never={plan.never} change={(never) => change({ ...plan, never })} />
        {looksAtEvents(plan.when.look) && (
          <SeenRulePart rule={plan.seen} change={(seen) => change({ ...plan, seen })} />
        )}
        <Issues of="Never" issues={issues} />
      </dd>
    </dl>
  )
}

/** A plan with a part of one side changed. Two sides open opposite ways: where one is turned, the other is as well. */
function withSide(plan: Plan, at: number, part: Partial<Side>): Plan {
  const before = plan.sides[at].among
  // Two sides that look at the same pairs go on looking at the same.
  const alike = (one: Side) =>
    part.among && 'pairs' in part.among && JSON.stringify(one.among) === JSON.stringify(before)
  const sides = plan.sides.map((one, i) =>
    i === at ? { ...one, ...part } : alike(one) ? { ...one, among: part.among! } : one,
  )
  const own = sides[at].do
  if (!('open' in own)) return { ...plan, sides }
  const other = own.open === 'Long' ? ('Short' as const) : ('Long' as const)
  return {
    ...plan,
    sides: sides.map((one, i) =>
      i !== at && 'open' in one.do && one.do.open === own.open
        ? { ...one, do: { ...one.do, open: other } }
        : one,
    ),
  }
}

/** What changes with what a side looks at: pairs are traded in a ratio, and left by a rule. */
function withAmong({ do: deed, then }: Side, among: Side['among']): Partial<Side> {
  if (!('open' in deed)) return { among }
  if (!('pairs' in among)) return { among, do: { ...deed, mate: undefined } }
  const { exits: _exits, moves: _moves, stopWaits: _waits, ...left } = then
  const spread = 'hedge(close, mate(close), 60).zscore'
  return {
    among,
    do: { ...deed, mate: deed.mate ?? { ratio: 'hedge(close, mate(close), 60).ratio', alone: 'Close' } },
    then: { ...left, leaveIf: left.leaveIf ?? `${spread} ${deed.open === 'Long' ? '>' : '<'} 0` },
  }
}

/** The clauses of one side; of a second one each blank says which it is of. */
function SidePart({ plan, at, issues = [], carries, change }: Props & { at: number }) {
  const side = plan.sides[at]
  const own = issues.filter((issue) => issue.side === at)
  const put = (part: Partial<Side>) => change(withSide(plan, at, part))
  const of = at === 0 ? '' : ', other side'
  return (
    <>
      <dt>Among</dt>
      <dd>
        <AmongPart of={of} among={side.among} change={(among) => put(withAmong(side, among))} />
        <Issues of="Among" issues={own} />
      </dd>
      <dt>If</dt>
      <dd>
        <RuleEditor
          single
          value={side.if.rule}
          onChange={(rule) => put({ if: { ...side.if, rule: rule || ' ' } })}
          onRun={() => undefined}
          check={(text) => checkWith(plan, text, side.if.every)}
          label={`Condition${of}`}
          hint="a rule, such as close crosses above sma(close, 20)"
        />
        <SignalBlank of={of} side={side} ticks={plan.when.look !== 'Bar'} put={put} />
        {at === 0 &&
          carries?.map((line) => (
            <p key={line} className={`${css.note} soft`} style={{ fontSize: 13 }}>
              {line}
            </p>
          ))}
        <Issues of="If" issues={own} />
      </dd>
      <dt>Provided</dt>
      <dd>
        <Gates of={of} gates={side.provided} change={(provided) => put({ provided })} />
        <ScorePart of={of} side={side} put={put} />
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

/** Checks rule text in which names of inputs may stand; what is wrong is marked where it was written. */
function checkWith({ inputs = [] }: Plan, text: string, every: string): Checked {
  const put = withValues(text, inputs)
  const checked = checkRule(put.text, parseTimeframe(every)!)
  if (checked.issues.length === 0) return checked
  const issues = checked.issues.map((issue) => ({
    ...issue,
    at: { from: put.back(issue.at.from), to: put.back(issue.at.to) },
  }))
  return { ...checked, issues } as Checked
}

/** How long a signal stands; nothing said is of its moment alone. */
const orNone = (lasts: NonNullable<Side['if']['lasts']>) =>
  lasts.bars === undefined && lasts.percent === undefined ? undefined : lasts

/** Whether the growing bar counts, and how long what began stands. */
function SignalBlank({
  of,
  side,
  ticks,
  put,
}: {
  of: string
  side: Side
  ticks: boolean
  put(part: Partial<Side>): void
}) {
  const { bars, lasts } = side.if
  const change = (part: Partial<Side['if']>) => put({ if: { ...side.if, ...part } })
  return (
    <span className={css.between}>
      on{' '}
      <InlineChoice
        label={`Bars that count${of}`}
        value={bars}
        options={[
          ['Complete', 'complete bars alone'],
          [
            'SoFar',
            ticks ? 'the bar that grows as well' : 'the bar that grows as well (it looks at ends alone)',
          ],
        ]}
        onChange={(next) => change({ bars: next })}
      />
      ,{' '}
      <InlineChoice
        label={`Adjusted${of}`}
        value={side.if.prices ?? 'OverSplits'}
        options={[
          ['OverSplits', 'adjusted for splits'],
          ['OverSplitsAndDividends', 'adjusted for splits and dividends'],
          ['AsTraded', 'as traded'],
        ]}
        onChange={(next) => change({ prices: next === 'OverSplits' ? undefined : next })}
      />
      ; what began stands for{' '}
      <NumberBlank
        label={`Bars that a signal lasts${of}`}
        value={lasts?.bars}
        onChange={(next) =>
          change({
            lasts: orNone({ ...lasts, bars: next === undefined ? undefined : Math.max(1, Math.round(next)) }),
          })
        }
      />{' '}
      bars more, while the price moves at most{' '}
      <NumberBlank
        label={`Percent that it may move${of}`}
        value={lasts?.percent}
        onChange={(percent) => change({ lasts: orNone({ ...lasts, percent }) })}
      />{' '}
      %
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
const GATES = [
  ...['order value <= 5000', 'quoted spread <= 0.3%', 'order loss <= 100', 'price away <= 2%'],
  ...['breadth >= 50%', 'market lean >= 0', 'return on risk >= 150%'],
]
