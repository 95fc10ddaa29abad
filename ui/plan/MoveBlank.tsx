import { type StopMove } from '@/core/plans/exits'
import { InlineAction, InlineChoice } from '../ticket/Inline'
import { FIRST_GONE, GoneBlank } from './GoneBlank'
import { TextBlank } from './blanks'

/** How a stop or a target is moved, in a sentence. */
export function MoveBlank({
  of,
  move,
  change,
}: {
  of: string
  move: StopMove
  change(move: StopMove | undefined): void
}) {
  const { when, to } = move
  const kind = typeof when === 'string' ? when : 'gain'
  const put = (part: Partial<StopMove>) => change({ ...move, ...part })
  return (
    <>
      ; the{' '}
      <InlineChoice
        label={`What moves${of}`}
        value={move.of}
        options={[
          ['Stop', 'stop'],
          ['Target', 'target'],
        ]}
        onChange={(next) => put({ of: next })}
      />{' '}
      goes to{' '}
      <InlineChoice
        label={`Goes to${of}`}
        value={to === 'Fill' ? 'Fill' : 'level'}
        options={[
          ['Fill', 'the price of the fill'],
          ['level', 'the price'],
        ]}
        onChange={(next) => put({ to: next === 'Fill' ? 'Fill' : { level: 'low' } })}
      />
      {to !== 'Fill' && (
        <>
          {' '}
          <TextBlank label={`New level${of}`} value={to.level} onChange={(level) => put({ to: { level } })} />
        </>
      )}{' '}
      <InlineChoice
        label={`Moved when${of}`}
        value={kind}
        options={[
          ['gain', 'once it has gained'],
          ['EntryBar', 'once the bar of the entry is complete'],
          ['EveryBar', `at the end of every bar${move.of === 'Stop' ? ', never back' : ''}`],
        ]}
        onChange={(next) =>
          next === 'gain'
            ? put({ when: { gain: FIRST_GONE.percent } })
            : put({ when: next, to: to === 'Fill' ? { level: 'low' } : to })
        }
      />{' '}
      {typeof when !== 'string' && (
        <>
          <GoneBlank label={`Gain${of}`} gone={when.gain} change={(gain) => put({ when: { gain } })} />{' '}
        </>
      )}
      <InlineAction label={`Take the move away${of}`} onAct={() => change(undefined)}>
        take away
      </InlineAction>
    </>
  )
}
