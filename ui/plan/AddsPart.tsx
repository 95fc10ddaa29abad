import { apartOf } from '@/core/engine/keptFromAdding'
import { type Adds } from '@/core/plans/entry'
import { InlineAction, InlineChoice } from '../ticket/Inline'
import { FIRST_GONE, GoneBlank } from './GoneBlank'
import { NumberBlank } from './blanks'

const upTo = (most: number | undefined, before: Adds['upTo']): Adds['upTo'] =>
  most === undefined
    ? undefined
    : before && 'shares' in before
      ? { shares: Math.max(1, Math.round(most)) }
      : { money: most }

/** Whether more is ordered of what is held: when, how often, and where the stops go then. */
export function AddsPart({
  of,
  adds,
  pairs,
  change,
}: {
  of: string
  adds: Adds | undefined
  /** Of pairs both legs are added to, on a signal. */
  pairs: boolean
  change(adds: Adds | undefined): void
}) {
  if (!adds)
    return (
      <>
        {' '}
        <InlineAction
          label={`Order more of what is held${of}`}
          onAct={() => change({ most: 1, after: pairs ? 'Signal' : { gain: FIRST_GONE.risk }, stops: 'Own' })}
        >
          order more of what is held
        </InlineAction>
      </>
    )
  const { most, after, stops } = adds
  const kind = after === 'Signal' ? 'Signal' : 'gain' in after ? 'gain' : 'loss'
  const far = after === 'Signal' ? FIRST_GONE.percent : 'gain' in after ? after.gain : after.loss
  const when = (next: 'Signal' | 'gain' | 'loss', by = far): Adds['after'] =>
    next === 'Signal' ? 'Signal' : next === 'gain' ? { gain: by } : { loss: by }
  return (
    <>
      , up to{' '}
      <NumberBlank
        label={`Times more${of}`}
        value={most}
        onChange={(next) =>
          change(
            next === undefined ? undefined : { ...adds, most: Math.min(20, Math.max(1, Math.round(next))) },
          )
        }
      />{' '}
      {most === 1 ? 'time' : 'times'} more{' '}
      <InlineChoice
        label={`More is ordered${of}`}
        value={kind}
        options={[
          ['Signal', 'when it begins anew'],
          ...(pairs
            ? []
            : ([
                ['gain', 'each time it has gained'],
                ['loss', 'each time it has lost'],
              ] as const)),
        ]}
        onChange={(next) => change({ ...adds, after: when(next) })}
      />
      {after !== 'Signal' && kind !== 'Signal' && (
        <>
          {' '}
          <GoneBlank
            label={`Way to the next order${of}`}
            gone={far}
            change={(by) => change({ ...adds, after: when(kind, by) })}
          />{' '}
          since the last fill
        </>
      )}
      , at least{' '}
      <NumberBlank
        label={`Minutes between orders for more${of}`}
        value={apartOf(adds) || undefined}
        onChange={(next) =>
          change({
            ...adds,
            apart: next === undefined ? undefined : Math.min(390, Math.max(1, Math.round(next))),
          })
        }
      />{' '}
      minutes after the last fill, up to{' '}
      <NumberBlank
        label={`Most of the position${of}`}
        value={adds.upTo && ('shares' in adds.upTo ? adds.upTo.shares : adds.upTo.money)}
        onChange={(next) => change({ ...adds, upTo: upTo(next, adds.upTo) })}
      />{' '}
      <InlineChoice
        label={`Most of the position is measured in${of}`}
        value={adds.upTo && 'shares' in adds.upTo ? 'shares' : 'money'}
        options={[
          ['money', 'money in all'],
          ['shares', 'shares in all'],
        ]}
        onChange={(unit) => {
          const most = adds.upTo && ('shares' in adds.upTo ? adds.upTo.shares : adds.upTo.money)
          if (most !== undefined)
            change({ ...adds, upTo: unit === 'shares' ? { shares: Math.round(most) } : { money: most } })
        }}
      />
      ,{' '}
      <InlineChoice
        label={`Stops of all orders${of}`}
        value={stops}
        options={[
          ['Own', 'each with its own stop'],
          ['Newest', 'all at the newest stop'],
        ]}
        onChange={(next) => change({ ...adds, stops: next })}
      />{' '}
      <InlineAction label={`Order no more${of}`} onAct={() => change(undefined)}>
        take away
      </InlineAction>
    </>
  )
}
