import { type StopLimitBy } from '@/core/orders/exits'
import { type Then } from '@/core/plans/exits'
import { InlineAction, InlineChoice } from '../ticket/Inline'
import { NumberBlank } from './blanks'

/** Whether stops become limit orders, and what follows where those are not filled. */
export function StopLimitPart({
  of,
  then,
  change,
}: {
  of: string
  then: Then
  change(part: Partial<Then>): void
}) {
  const exits = then.exits!
  const by = exits.stopLimit
  const setBy = (stopLimit: StopLimitBy | undefined) =>
    change({ exits: { ...exits, stopLimit }, ...(stopLimit ? {} : { stopWaits: undefined }) })
  const fixed = (exits.parts ?? [exits]).some(({ stop }) => stop && !('trail' in stop))
  return (
    <>
      {by && (
        <>
          ; a stop becomes a limit{' '}
          <NumberBlank
            label={`Limit beyond the stop${of}`}
            needed
            value={'ticks' in by ? by.ticks : by.percent}
            onChange={(value) =>
              setBy('ticks' in by ? { ticks: Math.round(value!) } : { percent: Math.min(99, value!) })
            }
          />{' '}
          <InlineChoice
            label={`Limit beyond the stop is measured in${of}`}
            value={'ticks' in by ? 'ticks' : 'percent'}
            options={[
              ['ticks', 'ticks'],
              ['percent', '%'],
            ]}
            onChange={(next) => setBy(next === 'ticks' ? { ticks: 10 } : { percent: 0.5 })}
          />{' '}
          beyond it, and what is left goes at the market after{' '}
          <NumberBlank
            label={`Minutes that a stop waits${of}`}
            value={then.stopWaits}
            onChange={(minutes) =>
              change({
                stopWaits:
                  minutes === undefined ? undefined : Math.min(390, Math.max(1, Math.round(minutes))),
              })
            }
          />{' '}
          min{' '}
          <InlineAction label={`Stop at the market${of}`} onAct={() => setBy(undefined)}>
            take away
          </InlineAction>
        </>
      )}
      {!by && fixed && (
        <>
          {' '}
          <InlineAction
            label={`Stop at a limit${of}`}
            onAct={() =>
              change({ exits: { ...exits, stopLimit: { ticks: 10 } }, stopWaits: then.stopWaits ?? 2 })
            }
          >
            stop at a limit
          </InlineAction>
        </>
      )}
    </>
  )
}
