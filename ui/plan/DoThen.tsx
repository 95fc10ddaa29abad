import { type ExitLevel, type Exits } from '@/core/orders/exits'
import { type PlanPrice, type PlanSize, type Side } from '@/core/plans/document'
import { thenText } from '@/core/plans/say'
import { InlineChoice } from '../ticket/Inline'
import { NumberBlank, TimeBlank } from './blanks'

type SizeKind = 'shares' | 'money' | 'equity' | 'risk'
const sizeKind = (size: PlanSize): SizeKind => Object.keys(size)[0] as SizeKind
const sizeOf = (kind: SizeKind, value: number): PlanSize =>
  ({
    [kind]:
      kind === 'shares' ? Math.max(1, Math.round(value)) : kind === 'money' ? value : Math.min(100, value),
  }) as PlanSize
const SIZES: Record<SizeKind, number> = { shares: 100, money: 5000, equity: 10, risk: 0.5 }

/** One side of a plan; of a second one each blank says so. */
interface OfSide {
  of: string
  side: Side
  put(part: Partial<Side>): void
}

/** What is opened, how much of it, at which price. */
export function DoPart({ of, side, put }: OfSide) {
  const { open, price, size, timeInForce } = side.do
  const change = (part: Partial<Side['do']>) => put({ do: { ...side.do, ...part } })
  const kind = sizeKind(size)
  const at: 'market' | Exclude<PlanPrice, 'market'>['at'] = price === 'market' ? 'market' : price.at
  return (
    <>
      <InlineChoice
        label={`Opens${of}`}
        value={open}
        options={[
          ['Long', 'buy'],
          ['Short', 'sell short'],
        ]}
        onChange={(next) => change({ open: next })}
      />{' '}
      <NumberBlank
        label={`Size${of}`}
        needed
        value={(size as Record<string, number>)[kind]}
        onChange={(value) => change({ size: sizeOf(kind, value!) })}
      />{' '}
      <InlineChoice
        label={`Size is measured in${of}`}
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
        label={`Price${of}`}
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
        label={`Good for${of}`}
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

/** How it gets out again. */
export function ThenPart({ of, side, put }: OfSide) {
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
    <TimeBlank
      label={`Out at${of}`}
      none="no time"
      value={outAt}
      onChange={(next) => change({ outAt: next })}
    />
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
        label={`Target${of}`}
        level={exits?.target}
        kinds={exits?.stop ? [...LEVELS, ['risk', 'times the risk']] : LEVELS}
        onChange={(next) => level('target', next)}
      />{' '}
      or a stop of{' '}
      <LevelBlank
        label={`Stop${of}`}
        level={exits?.stop}
        kinds={LEVELS}
        onChange={(next) => level('stop', next)}
      />
      , from the fill, held by the broker; all by {outBy}
    </>
  )
}
