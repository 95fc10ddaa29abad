import { partsOf } from '@/core/orders/exits'
import { type PlanLevel, type Then } from '@/core/plans/exits'
import { InlineAction, InlineChoice } from '../ticket/Inline'
import { UnfilledBlank } from './UnfilledPart'
import { NumberBlank, TextBlank, TimeBlank } from './blanks'
import { type OfSide } from './DoPart'
import { ExitsPart } from './ExitsPart'
import { MoveBlank } from './MoveBlank'
import { StopLimitPart } from './StopLimitPart'
import { EVERY } from './WhenPart'
import { NetPart } from './LegsPart'
import css from './Plan.module.css'

/** How it gets out again. */
export function ThenPart({ of, side, put }: OfSide) {
  const { then } = side
  const { exits } = then
  const change = (part: Partial<Then>) => {
    const next = withoutVain({ ...then, ...part })
    // No level at all is no exits.
    put({
      then:
        next.exits && !next.exits.stop && !next.exits.target && !next.exits.parts
          ? { ...next, exits: undefined }
          : next,
    })
  }
  if ('tell' in side.do) return <>nothing: nothing is ordered</>
  if ('close' in side.do) return <>nothing: what is closed is gone</>
  const pairs = 'pairs' in side.among
  const whole = 'legs' in side.do
  const stopped = exits !== undefined && partsOf<PlanLevel>(exits).every(({ stop }) => stop)
  const targeted = exits !== undefined && partsOf<PlanLevel>(exits).every(({ target }) => target)
  const watches = then.leaveIf !== undefined || (then.moves ?? []).length > 0
  return (
    <>
      {whole ? (
        <NetPart of={of} then={then} change={change} />
      ) : pairs ? (
        <>
          leave both <NetPart of={of} then={then} pairs change={change} />
        </>
      ) : (
        <>
          <ExitsPart of={of} exits={exits} change={(next) => change({ exits: next })} />
          {exits && <StopLimitPart of={of} then={then} change={change} />}
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
      {watches && <WatchedOn of={of} on={then.on} every={side.if.every} change={(on) => change({ on })} />}
      {then.leave && (
        <>
          ; that at a limit at{' '}
          <InlineChoice
            label={`Left at${of}`}
            value={then.leave.at}
            options={[
              ['bid', 'the bid'],
              ['ask', 'the ask'],
              ['mid', 'the middle'],
              ['last', 'the last price'],
            ]}
            onChange={(at) => change({ leave: { ...then.leave!, at } })}
          />{' '}
          plus{' '}
          <NumberBlank
            label={`Left at ticks above${of}`}
            signed
            value={then.leave.ticks || undefined}
            onChange={(ticks) => change({ leave: { ...then.leave!, ticks: Math.round(ticks ?? 0) } })}
          />{' '}
          ticks,{' '}
          <UnfilledBlank
            of={of}
            unfilled={then.leave.unfilled}
            change={(unfilled) => change({ leave: { ...then.leave!, unfilled } })}
          />{' '}
          <InlineAction label={`Leave at the market${of}`} onAct={() => change({ leave: undefined })}>
            take away
          </InlineAction>
        </>
      )}
      <span className={css.more}>
        {!whole && !then.leave && (then.outAt ?? then.leaveIf) !== undefined && (
          <InlineAction
            label={`Leave at a limit${of}`}
            onAct={() => change({ leave: { at: 'mid', ticks: 0, unfilled: { minutes: 3, next: 'Market' } } })}
          >
            leave at a limit
          </InlineAction>
        )}
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
        {(stopped || targeted) && (then.moves ?? []).length < 4 && (
          <InlineAction
            label={`Move the stop or the target${of}`}
            onAct={() =>
              change({
                moves: [...(then.moves ?? []), { of: 'Stop', when: { gain: { percent: 1 } }, to: 'Fill' }],
              })
            }
          >
            move the stop or the target
          </InlineAction>
        )}
      </span>
    </>
  )
}

/** What is said of stops is of no use once there are none that stand still; nor are bars on which nothing is watched. */
function withoutVain({ exits, on, ...rest }: Then): Then {
  const watches = rest.leaveIf !== undefined || (rest.moves ?? []).length > 0
  const then = watches && on ? { ...rest, on } : rest
  const fixed = exits && (exits.parts ?? [exits]).some(({ stop }) => stop && !('trail' in stop))
  if (!exits || fixed) return { ...then, exits }
  const { stopLimit: _by, ...left } = exits
  return { ...then, exits: left, stopWaits: undefined }
}

type On = Then['on']

/** On which bars it is watched while something is held: those of the condition, or its own. */
function WatchedOn({ of, on, every, change }: { of: string; on: On; every: string; change(on: On): void }) {
  return (
    <>
      ; watched{' '}
      <InlineChoice
        label={`Watched${of}`}
        value={!on ? 'If' : on.bars}
        options={[
          ['If', 'as If is asked'],
          ['Complete', 'at the end of every'],
          ['SoFar', 'at each tick, on'],
        ]}
        onChange={(bars) => change(bars === 'If' ? undefined : { ...on, bars })}
      />
      {on && (
        <>
          {' '}
          <InlineChoice
            label={`Bars that are watched${of}`}
            value={on.every ?? every}
            options={[...new Set([...EVERY, every])].map((one) => [one, one] as const)}
            onChange={(next) => change({ ...on, every: next })}
          />{' '}
          {on.bars === 'SoFar' ? 'bars' : 'bar'}
        </>
      )}
    </>
  )
}
