import { useState } from 'react'
import { parseTimeframe } from '@/core/market/timeframe'
import { type ExitLevel, type Exits } from '@/core/orders/exits'
import {
  type Never,
  type Plan,
  type PlanGate,
  type PlanPrice,
  type PlanSize,
  type Side,
} from '@/core/plans/document'
import { type PlanIssue, planIssues } from '@/core/plans/check'
import { thenText } from '@/core/plans/say'
import { checkRule } from '@/core/rules'
import { RuleEditor } from '../find/RuleEditor'
import { InlineAction, InlineChoice, InlineText } from '../ticket/Inline'
import { NumberBlank, TimeBlank } from './blanks'
import css from './Plan.module.css'

const EVERY = ['1 min', '5 min', '15 min', '30 min', '1 hour', '1 day'] as const

interface Props {
  plan: Plan
  change(plan: Plan): void
}

/** A plan as prose, each blank filled in where it stands. */
export function Clauses({ plan, change }: Props) {
  const [side] = plan.sides
  const put = (part: Partial<Side>) =>
    change({ ...plan, sides: [{ ...side, ...part }, ...plan.sides.slice(1)] })
  const issues = planIssues(plan)
  const every = side.if.every
  return (
    <dl className={css.clauses}>
      <dt>When</dt>
      <dd>
        at the end of every{' '}
        <InlineChoice
          label="Bars of the condition"
          value={every}
          options={[...new Set([...EVERY, every])].map((one) => [one, one] as const)}
          onChange={(next) => put({ if: { ...side.if, every: next } })}
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
        <Issues of="When" issues={issues} />
      </dd>
      <dt>Among</dt>
      <dd>
        <SymbolList list={side.among.list} change={(list) => put({ among: { list } })} />
      </dd>
      <dt>If</dt>
      <dd>
        <RuleEditor
          single
          value={side.if.rule}
          onChange={(rule) => put({ if: { ...side.if, rule: rule || ' ' } })}
          onRun={() => undefined}
          check={(text) => checkRule(text, parseTimeframe(every)!)}
          label="Condition"
          hint="a rule, such as close crosses above sma(close, 20)"
        />
        <Issues of="If" issues={issues} />
      </dd>
      <dt>Provided</dt>
      <dd>
        <Gates gates={side.provided} change={(provided) => put({ provided })} />
        <Issues of="Provided" issues={issues} />
      </dd>
      <dt>Do</dt>
      <dd>
        <DoPart side={side} put={put} />
        <Issues of="Do" issues={issues} />
      </dd>
      <dt>Then</dt>
      <dd>
        <ThenPart side={side} put={put} />
        <Issues of="Then" issues={issues} />
      </dd>
      <dt>Never</dt>
      <dd>
        <NeverPart never={plan.never} change={(never) => change({ ...plan, never })} />
        <Issues of="Never" issues={issues} />
      </dd>
    </dl>
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
function SymbolList({ list, change }: { list: readonly string[]; change(list: string[]): void }) {
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
        label="Securities"
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

function Gates({ gates, change }: { gates: readonly PlanGate[]; change(gates: PlanGate[]): void }) {
  const at = (i: number, part: Partial<PlanGate>) =>
    change(gates.map((one, k) => (k === i ? { ...one, ...part } : one)))
  return (
    <>
      {gates.map((gate, i) => (
        <span key={i} style={{ display: 'block' }}>
          <InlineText
            label={`Name of gate ${i + 1}`}
            among={[]}
            value={gate.name}
            onChange={(name) => name && at(i, { name })}
          />
          {': '}
          <span className="mono" style={{ fontSize: 14 }}>
            <InlineText
              label={`Rule of gate ${i + 1}`}
              among={GATES}
              most={400}
              value={gate.rule}
              onChange={(rule) => at(i, { rule: rule || ' ' })}
            />
          </span>{' '}
          <InlineAction
            label={`Take gate ${i + 1} away`}
            onAct={() => change(gates.filter((_, k) => k !== i))}
          >
            take away
          </InlineAction>
        </span>
      ))}
      {gates.length === 0 && 'nothing more '}
      <InlineAction
        label="Add a gate"
        onAct={() => change([...gates, { name: 'largest order', rule: 'order value <= 5000' }])}
      >
        add a gate
      </InlineAction>
    </>
  )
}
const GATES = ['order value <= 5000', 'quoted spread <= 0.3%', 'order loss <= 100', 'price away <= 2%']

type SizeKind = 'shares' | 'money' | 'equity' | 'risk'
const sizeKind = (size: PlanSize): SizeKind => Object.keys(size)[0] as SizeKind
const sizeOf = (kind: SizeKind, value: number): PlanSize =>
  ({
    [kind]:
      kind === 'shares' ? Math.max(1, Math.round(value)) : kind === 'money' ? value : Math.min(100, value),
  }) as PlanSize
const SIZES: Record<SizeKind, number> = { shares: 100, money: 5000, equity: 10, risk: 0.5 }

function DoPart({ side, put }: { side: Side; put(part: Partial<Side>): void }) {
  const { open, price, size, timeInForce } = side.do
  const change = (part: Partial<Side['do']>) => put({ do: { ...side.do, ...part } })
  const kind = sizeKind(size)
  const at: 'market' | Exclude<PlanPrice, 'market'>['at'] = price === 'market' ? 'market' : price.at
  return (
    <>
      <InlineChoice
        label="Opens"
        value={open}
        options={[
          ['Long', 'buy'],
          ['Short', 'sell short'],
        ]}
        onChange={(next) => change({ open: next })}
      />{' '}
      <NumberBlank
        label="Size"
        needed
        value={(size as Record<string, number>)[kind]}
        onChange={(value) => change({ size: sizeOf(kind, value!) })}
      />{' '}
      <InlineChoice
        label="Size is measured in"
        value={kind}
        options={[
          ['shares', 'shares'],
          ['money', 'in money'],
          ['equity', '% of equity'],
          ['risk', '% of equity at risk'],
        ]}
        onChange={(next) => change({ size: sizeOf(next, SIZES[next]) })}
      />
      , at{' '}
      <InlineChoice
        label="Price"
        value={at}
        options={[
          ['market', 'the market'],
          ['bid', 'a limit at the bid'],
          ['ask', 'a limit at the ask'],
          ['mid', 'a limit at the middle'],
          ['last', 'a limit at the last price'],
        ]}
        onChange={(next) => change({ price: next === 'market' ? 'market' : { at: next, ticks: 0 } })}
      />
      , good{' '}
      <InlineChoice
        label="Good for"
        value={timeInForce}
        options={[
          ['Day', 'for the day'],
          ['GoodTillCancel', 'as long as it takes'],
          ['ImmediateOrCancel', 'this moment, what there is'],
        ]}
        onChange={(next) => change({ timeInForce: next })}
      />
    </>
  )
}

type LevelKind = 'percent' | 'ticks' | 'amount' | 'risk'
const LEVELS: readonly (readonly [LevelKind, string])[] = [
  ['percent', '%'],
  ['ticks', 'ticks'],
  ['amount', 'money a share'],
]
const levelOf = (kind: LevelKind, value: number): ExitLevel =>
  ({ [kind]: kind === 'ticks' ? Math.max(1, Math.round(value)) : value }) as ExitLevel

function LevelBlank(props: {
  label: string
  level: ExitLevel | undefined
  kinds: readonly (readonly [LevelKind, string])[]
  onChange(level: ExitLevel | undefined): void
}) {
  const { label, level, kinds, onChange } = props
  const kind = (level ? Object.keys(level)[0] : 'percent') as LevelKind
  const value = level && (level as unknown as Record<string, number>)[kind]
  return (
    <>
      <NumberBlank
        label={label}
        value={value}
        onChange={(next) => onChange(next === undefined ? undefined : levelOf(kind, next))}
      />{' '}
      <InlineChoice
        label={`${label} is measured in`}
        value={kind}
        options={kinds}
        onChange={(next) => onChange(levelOf(next, value ?? 2))}
      />
    </>
  )
}

/** True of exits that the sentence can say: one way out, its levels distances of the usual kinds. */
const isPlain = ({ parts, stop, target }: Exits): boolean =>
  !parts &&
  [stop, target].every(
    (level) => !level || ['percent', 'ticks', 'amount', 'risk'].includes(Object.keys(level)[0]),
  )

function ThenPart({ side, put }: { side: Side; put(part: Partial<Side>): void }) {
  const { exits, outAt } = side.then
  const change = (part: Partial<Side['then']>) => {
    const then = { ...side.then, ...part }
    // No level at all is no exits.
    put({ then: then.exits && !then.exits.stop && !then.exits.target ? { ...then, exits: undefined } : then })
  }
  const level = (role: 'stop' | 'target', next: ExitLevel | undefined) => {
    const after: Exits = { ...exits }
    if (next) after[role] = next
    else delete after[role]
    // A target in multiples of the risk has nothing to be measured by without a stop.
    if (!after.stop && after.target && 'risk' in after.target) delete after.target
    change({ exits: after })
  }
  const outBy = (
    <TimeBlank label="Out at" none="no time" value={outAt} onChange={(next) => change({ outAt: next })} />
  )
  if (exits && !isPlain(exits))
    return (
      <>
        {thenText({ then: { exits } })} <span className="soft">(as its file says)</span>; all by {outBy}
      </>
    )
  return (
    <>
      leave at a target of{' '}
      <LevelBlank
        label="Target"
        level={exits?.target}
        kinds={exits?.stop ? [...LEVELS, ['risk', 'times the risk']] : LEVELS}
        onChange={(next) => level('target', next)}
      />{' '}
      or a stop of{' '}
      <LevelBlank label="Stop" level={exits?.stop} kinds={LEVELS} onChange={(next) => level('stop', next)} />,
      from the fill, held by the broker; all by {outBy}
    </>
  )
}

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
