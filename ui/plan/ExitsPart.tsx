import { type PlanExits, type PlanLevel } from '@/core/plans/exits'
import { InlineAction, InlineChoice } from '../ticket/Inline'
import { NumberBlank } from './blanks'
import { LevelBlank } from './LevelBlank'

interface Levels {
  stop?: PlanLevel
  target?: PlanLevel
}
type Part = NonNullable<PlanExits['parts']>[number]

const MOST_PARTS = 4

/** Levels with one of them changed; a target in multiples of the risk goes with the stop that it is measured by. */
function withLevel<L extends Levels>(of: L, role: 'stop' | 'target', level: PlanLevel | undefined): L {
  const next = { ...of }
  if (level) next[role] = level
  else delete next[role]
  if (!next.stop && next.target && 'risk' in next.target) delete next.target
  return next
}

/** Exits with a part taken away; where one is left it is the whole. */
function without({ parts = [], ...rest }: PlanExits, i: number): PlanExits {
  const left = parts.filter((_, k) => k !== i)
  if (left.length > 1) return { ...rest, parts: lastTakesRest(left) }
  const [{ stop, target }] = left
  return { ...rest, ...(stop ? { stop } : {}), ...(target ? { target } : {}) }
}

/** What a part may take at most, so that the last is left something. */
const leftFor = (parts: readonly Part[], i: number): number =>
  parts.reduce((left, { share = 0 }, k) => (k === i ? left : left - share), 99)

const lastTakesRest = (parts: readonly Part[]): Part[] =>
  parts.map(({ share, ...part }, k) => (k === parts.length - 1 ? part : { ...part, share: share ?? 25 }))

/** The whole divided: the same levels for both halves, to be changed where they stand. */
const divided = ({ stop, target, wrongSide }: PlanExits): PlanExits => {
  const levels = { ...(stop ? { stop } : {}), ...(target ? { target } : {}) }
  return { parts: [{ ...levels, share: 50 }, levels], wrongSide }
}

/** One more part before the last, out of what the last one takes. */
function withOneMore({ parts = [], ...rest }: PlanExits): PlanExits {
  const last = parts[parts.length - 1]
  const taken = parts.reduce((sum, { share = 0 }) => sum + share, 0)
  const share = Math.max(1, Math.floor((100 - taken) / 2))
  return { ...rest, parts: [...parts.slice(0, -1), { ...last, share }, last] }
}

/** The stop and target that the broker holds: of the whole position, or of parts of it. */
export function ExitsPart({
  of,
  exits,
  change,
}: {
  of: string
  exits: PlanExits | undefined
  change(exits: PlanExits): void
}) {
  const { parts } = exits ?? {}
  if (!parts) {
    const put = (role: 'stop' | 'target', level: PlanLevel | undefined) =>
      change(withLevel({ ...exits }, role, level))
    return (
      <>
        leave <LevelsOf label="" of={of} levels={exits ?? {}} put={put} />, from the fill, held by the broker
        {exits?.stop || exits?.target ? (
          <>
            {' '}
            <Lasting of={of} exits={exits} change={change} />{' '}
            <InlineAction label={`Leave in parts${of}`} onAct={() => change(divided(exits))}>
              in parts
            </InlineAction>
            <WrongSide of={of} exits={exits} change={change} />
          </>
        ) : null}
      </>
    )
  }
  const put = (i: number, part: Part) =>
    change({ ...exits, parts: parts.map((one, k) => (k === i ? part : one)) })
  return (
    <>
      leave in parts, from the fill, held by the broker{' '}
      <Lasting of={of} exits={exits as PlanExits} change={change} />:
      {parts.map((part, i) => {
        const last = i === parts.length - 1
        return (
          <span key={i} style={{ display: 'block' }}>
            {last ? (
              'the rest'
            ) : (
              <>
                <NumberBlank
                  label={`Share of part ${i + 1}${of}`}
                  needed
                  value={part.share}
                  onChange={(share) => put(i, { ...part, share: Math.min(leftFor(parts, i), share!) })}
                />{' '}
                % of it
              </>
            )}{' '}
            <LevelsOf
              label={` of part ${i + 1}`}
              of={of}
              levels={part}
              put={(role, level) => {
                const next = withLevel(part, role, level)
                // A part without a way out is none.
                if (next.stop || next.target) put(i, next)
              }}
            />{' '}
            <InlineAction
              label={`Take part ${i + 1} away${of}`}
              onAct={() => change(without(exits as PlanExits, i))}
            >
              take away
            </InlineAction>
          </span>
        )
      })}
      {parts.length < MOST_PARTS && (
        <InlineAction label={`Add a part${of}`} onAct={() => change(withOneMore(exits as PlanExits))}>
          add a part
        </InlineAction>
      )}
      <WrongSide of={of} exits={exits as PlanExits} change={change} />
    </>
  )
}

interface OfExits {
  of: string
  exits: PlanExits
  change(exits: PlanExits): void
}

/** How long the broker holds them. */
const Lasting = ({ of, exits, change }: OfExits) => (
  <InlineChoice
    label={`Exits are held${of}`}
    value={exits.timeInForce ?? 'GoodTillCancel'}
    options={[
      ['GoodTillCancel', 'as long as it takes'],
      ['Day', 'until the session ends'],
    ]}
    onChange={(timeInForce) => change({ ...exits, timeInForce })}
  />
)

/** What happens where the actual fill leaves a level on its wrong side: one that is a price, whatever the fill. */
function WrongSide({ of, exits, change }: OfExits) {
  const prices = (exits.parts ?? [exits]).flatMap(({ stop, target }) =>
    [stop, target].filter((one) => one && ('price' in one || 'level' in one)),
  )
  if (prices.length === 0) return null
  return (
    <>
      ; where the fill lies beyond {prices.length === 1 ? 'it' : 'one of them'},{' '}
      <InlineChoice
        label={`Where the fill lies beyond a level${of}`}
        value={exits.wrongSide ?? 'LeaveAtOnce'}
        options={[
          ['LeaveAtOnce', 'leave at once'],
          ['Refuse', 'trade nothing at such a price'],
        ]}
        onChange={(wrongSide) => change({ ...exits, wrongSide })}
      />
    </>
  )
}

function LevelsOf({
  label,
  of,
  levels: { stop, target },
  put,
}: {
  label: string
  of: string
  levels: Levels
  put(role: 'stop' | 'target', level: PlanLevel | undefined): void
}) {
  return (
    <>
      at a target of{' '}
      <LevelBlank
        label={`Target${label}${of}`}
        role="target"
        level={target}
        stopped={stop !== undefined}
        onChange={(next) => put('target', next)}
      />{' '}
      or a stop of{' '}
      <LevelBlank
        label={`Stop${label}${of}`}
        role="stop"
        level={stop}
        onChange={(next) => put('stop', next)}
      />
    </>
  )
}
