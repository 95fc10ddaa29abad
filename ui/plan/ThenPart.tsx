import { type PlanExits, type PlanLevel, type StopMove, type Then } from '@/core/plans/exits'
import { thenText } from '@/core/plans/sayThen'
import { InlineAction, InlineChoice } from '../ticket/Inline'
import { NumberBlank, TextBlank, TimeBlank } from './blanks'
import { type OfSide } from './DoPart'
import { NetPart } from './LegsPart'
import css from './Plan.module.css'

type LevelKind = 'percent' | 'ticks' | 'amount' | 'risk' | 'level' | 'distance'
type Kinds = readonly (readonly [LevelKind, string])[]
const KINDS: Kinds = [
  ['percent', '%'],
  ['ticks', 'ticks'],
  ['amount', 'money a share'],
  ['level', 'at the price'],
  ['distance', 'at the distance'],
]
const FIRST: Record<LevelKind, PlanLevel> = {
  percent: { percent: 2 },
  ticks: { ticks: 40 },
  amount: { amount: 1 },
  risk: { risk: 2 },
  level: { level: 'opening(15 min).middle' },
  distance: { distance: '2 * atr(14)' },
}
const kindOf = (level: PlanLevel): LevelKind => Object.keys(level)[0] as LevelKind

function LevelBlank(props: {
  label: string
  level: PlanLevel | undefined
  kinds: Kinds
  onChange(level: PlanLevel | undefined): void
}) {
  const { label, level, kinds, onChange } = props
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
  const value = level && (level as unknown as Record<string, number>)[kind]
  const levelOf = (next: number): PlanLevel =>
    ({ [kind]: kind === 'ticks' ? Math.max(1, Math.round(next)) : next }) as PlanLevel
  return (
    <>
      <NumberBlank
        label={label}
        value={value}
        onChange={(next) => onChange(next === undefined ? undefined : levelOf(next))}
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

/** True of exits that the sentence can say: one way out, its levels of the usual kinds. */
const isPlain = ({ parts, stop, target }: PlanExits): boolean =>
  !parts && [stop, target].every((level) => !level || kindOf(level) in FIRST)

/** How it gets out again. */
export function ThenPart({ of, side, put }: OfSide) {
  const { then } = side
  const { exits } = then
  const change = (part: Partial<Then>) => {
    const next = { ...then, ...part }
    // No level at all is no exits.
    put({
      then:
        next.exits && !next.exits.stop && !next.exits.target && !next.exits.parts
          ? { ...next, exits: undefined }
          : next,
    })
  }
  const level = (role: 'stop' | 'target', next: PlanLevel | undefined) => {
    const after: PlanExits = { ...exits }
    if (next) after[role] = next
    else delete after[role]
    // A target in multiples of the risk has nothing to be measured by without a stop.
    if (!after.stop && after.target && 'risk' in after.target) delete after.target
    change({ exits: after })
  }
  if ('close' in side.do) return <>nothing: what is closed is gone</>
  const pairs = 'pairs' in side.among
  const whole = 'legs' in side.do
  return (
    <>
      {whole ? (
        <NetPart of={of} then={then} change={change} />
      ) : pairs ? (
        'leave both'
      ) : exits && !isPlain(exits) ? (
        <>
          {thenText({ then: { exits } })} <span className="soft">(as its file says)</span>
        </>
      ) : (
        <>
          leave at a target of{' '}
          <LevelBlank
            label={`Target${of}`}
            level={exits?.target}
            kinds={exits?.stop ? [...KINDS, ['risk', 'times the risk']] : KINDS}
            onChange={(next) => level('target', next)}
          />{' '}
          or a stop of{' '}
          <LevelBlank
            label={`Stop${of}`}
            level={exits?.stop}
            kinds={KINDS}
            onChange={(next) => level('stop', next)}
          />
          , from the fill, held by the broker
        </>
      )}
      {whole && then.daysLeft !== undefined ? ', at' : '; all by'}{' '}
      <TimeBlank
        label={`Out at${of}`}
        none="no time"
        value={then.outAt}
        onChange={(outAt) => change({ outAt, ...(outAt ? {} : { sessions: undefined }) })}
      />
      {then.outAt && then.sessions !== undefined && (
        <>
          {' '}
          of session{' '}
          <NumberBlank
            label={`Sessions held${of}`}
            value={then.sessions}
            onChange={(next) =>
              change({ sessions: next === undefined ? undefined : Math.max(1, Math.round(next)) })
            }
          />
        </>
      )}
      {then.leaveIf !== undefined && (
        <>
          ; all where{' '}
          <TextBlank
            label={`Leaves if${of}`}
            value={then.leaveIf}
            onChange={(leaveIf) => change({ leaveIf })}
          />{' '}
          <InlineAction label={`Take the rule away${of}`} onAct={() => change({ leaveIf: undefined })}>
            take away
          </InlineAction>
        </>
      )}
      {(then.moves ?? []).map((move, i) => (
        <MoveBlank
          key={i}
          of={`${of}, move ${i + 1}`}
          move={move}
          change={(next) => {
            const moves = (then.moves ?? []).flatMap((one, k) => (k === i ? (next ? [next] : []) : [one]))
            change({ moves: moves.length > 0 ? moves : undefined })
          }}
        />
      ))}
      <span className={css.more}>
        {then.leaveIf === undefined && (
          <InlineAction label={`Leave by a rule${of}`} onAct={() => change({ leaveIf: 'bars held >= 12' })}>
            leave by a rule
          </InlineAction>
        )}
        {then.outAt && then.sessions === undefined && (
          <InlineAction label={`Hold for several sessions${of}`} onAct={() => change({ sessions: 2 })}>
            hold for several sessions
          </InlineAction>
        )}
        {exits?.stop && (then.moves ?? []).length < 4 && (
          <InlineAction
            label={`Move the stop${of}`}
            onAct={() =>
              change({ moves: [...(then.moves ?? []), { when: { gain: { percent: 1 } }, to: 'Fill' }] })
            }
          >
            move the stop
          </InlineAction>
        )}
      </span>
    </>
  )
}

type MoveKind = 'EntryBar' | 'EveryBar' | 'percent' | 'ticks' | 'risk'

/** How a stop is moved, in a sentence. */
function MoveBlank({
  of,
  move,
  change,
}: {
  of: string
  move: StopMove
  change(move: StopMove | undefined): void
}) {
  const { when, to } = move
  const kind: MoveKind = typeof when === 'string' ? when : (Object.keys(when.gain)[0] as MoveKind)
  const turn = (next: MoveKind) => {
    if (next === 'EntryBar' || next === 'EveryBar')
      change({ when: next, to: to === 'Fill' ? { level: 'low' } : to })
    else change({ when: { gain: { [next]: next === 'ticks' ? 40 : 1 } as never }, to })
  }
  return (
    <>
      ; the stop goes to{' '}
      <InlineChoice
        label={`Stop goes to${of}`}
        value={to === 'Fill' ? 'Fill' : 'level'}
        options={[
          ['Fill', 'the price of the fill'],
          ['level', 'the price'],
        ]}
        onChange={(next) => change({ when, to: next === 'Fill' ? 'Fill' : { level: 'low' } })}
      />
      {to !== 'Fill' && (
        <>
          {' '}
          <TextBlank
            label={`New stop${of}`}
            value={to.level}
            onChange={(level) => change({ when, to: { level } })}
          />
        </>
      )}{' '}
      {typeof when !== 'string' && (
        <>
          once it has gained{' '}
          <NumberBlank
            label={`Gain${of}`}
            needed
            value={(when.gain as Record<string, number>)[kind]}
            onChange={(value) =>
              change({
                when: {
                  gain: { [kind]: kind === 'ticks' ? Math.max(1, Math.round(value!)) : value! } as never,
                },
                to,
              })
            }
          />{' '}
        </>
      )}
      <InlineChoice
        label={`Moved when${of}`}
        value={kind}
        options={[
          ['percent', '%'],
          ['ticks', 'ticks'],
          ['risk', 'times the risk'],
          ['EntryBar', 'once the bar of the entry is complete'],
          ['EveryBar', 'at the end of every bar, never back'],
        ]}
        onChange={turn}
      />{' '}
      <InlineAction label={`Take the move away${of}`} onAct={() => change(undefined)}>
        take away
      </InlineAction>
    </>
  )
}
