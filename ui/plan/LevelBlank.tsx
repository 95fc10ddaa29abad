import { type PlanLevel } from '@/core/plans/exits'
import { InlineChoice } from '../ticket/Inline'
import { NumberBlank, TextBlank } from './blanks'

/** How a level is measured; what trails is one of two kinds. */
type LevelKind =
  | 'percent'
  | 'ticks'
  | 'amount'
  | 'total'
  | 'risk'
  | 'price'
  | 'level'
  | 'distance'
  | 'trail percent'
  | 'trail amount'
type Kinds = readonly (readonly [LevelKind, string])[]

const BOTH: Kinds = [
  ['percent', '%'],
  ['ticks', 'ticks'],
  ['amount', 'money a share'],
  ['total', 'money in all'],
  ['price', 'as a price'],
  ['level', 'at the price'],
  ['distance', 'at the distance'],
]
const STOPS: Kinds = [
  ...BOTH,
  ['trail percent', '% behind the best price'],
  ['trail amount', 'money behind the best price'],
]
const TARGETS: Kinds = [...BOTH, ['risk', 'times the risk']]

const FIRST: Record<LevelKind, PlanLevel> = {
  percent: { percent: 2 },
  ticks: { ticks: 40 },
  amount: { amount: 1 },
  total: { total: 100 },
  risk: { risk: 2 },
  price: { price: 10 },
  level: { level: 'opening(15 min).middle' },
  distance: { distance: '2 * atr(14)' },
  'trail percent': { trail: { percent: 2 } },
  'trail amount': { trail: { amount: 0.5 } },
}

function kindOf(level: PlanLevel): LevelKind {
  if ('trail' in level) return 'percent' in level.trail ? 'trail percent' : 'trail amount'
  return Object.keys(level)[0] as LevelKind
}

type Numbered = Exclude<PlanLevel, { level: string } | { distance: string }>
const numberOf = (level: Numbered): number =>
  'trail' in level ? Object.values(level.trail)[0] : Object.values(level)[0]

function withNumber(kind: LevelKind, value: number): PlanLevel {
  if (kind === 'trail percent') return { trail: { percent: Math.min(99, value) } }
  if (kind === 'trail amount') return { trail: { amount: value } }
  return { [kind]: kind === 'ticks' ? Math.max(1, Math.round(value)) : value } as PlanLevel
}

/** A level of an exit in a sentence; left empty there is none. */
export function LevelBlank({
  label,
  role,
  level,
  stopped = false,
  onChange,
}: {
  label: string
  role: 'stop' | 'target'
  level: PlanLevel | undefined
  /** Of a target: whether there is a stop that it can be measured by. */
  stopped?: boolean
  onChange(level: PlanLevel | undefined): void
}) {
  const kinds = role === 'stop' ? STOPS : stopped ? TARGETS : BOTH
  const kind = level ? kindOf(level) : 'percent'
  const turn = (
    <InlineChoice
      label={`${label} is measured in`}
      value={kind}
      options={kinds}
      onChange={(next) => onChange(FIRST[next])}
    />
  )
  if (level && ('level' in level || 'distance' in level)) {
    const text = 'level' in level ? level.level : level.distance
    return (
      <>
        {turn}{' '}
        <TextBlank
          label={label}
          value={text}
          onChange={(next) => onChange('level' in level ? { ...level, level: next } : { distance: next })}
        />
        {'level' in level && <OtherwiseBlank label={label} level={level} onChange={onChange} />}
      </>
    )
  }
  return (
    <>
      <NumberBlank
        label={label}
        value={level && numberOf(level)}
        onChange={(next) => onChange(next === undefined ? undefined : withNumber(kind, next))}
      />{' '}
      {turn}
    </>
  )
}

/** What holds on a day on which a level lies on the wrong side of the price. */
function OtherwiseBlank({
  label,
  level,
  onChange,
}: {
  label: string
  level: Extract<PlanLevel, { level: string }>
  onChange(level: PlanLevel): void
}) {
  const percent = level.otherwise && 'percent' in level.otherwise ? level.otherwise.percent : undefined
  return (
    <>
      {' '}
      (on the wrong side{' '}
      <NumberBlank
        label={`${label} otherwise`}
        value={percent}
        onChange={(next) => {
          const { otherwise: _before, ...plain } = level
          onChange(next === undefined ? plain : { ...plain, otherwise: { percent: next } })
        }}
      />{' '}
      {percent === undefined ? 'no order' : '%'})
    </>
  )
}
