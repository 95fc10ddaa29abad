import { type Adds } from '@/core/plans/entry'
import { InlineAction, InlineChoice } from '../ticket/Inline'
import { FIRST_GONE, GoneBlank } from './GoneBlank'
import { NumberBlank } from './blanks'

/** Whether more is ordered of what is held: when, how often, and where the stops go then. */
export function AddsPart({
  of,
  adds,
  change,
}: {
  of: string
  adds: Adds | undefined
  change(adds: Adds | undefined): void
}) {
  if (!adds)
    return (
      <>
        {' '}
        <InlineAction
          label={`Order more of what is held${of}`}
          onAct={() => change({ most: 1, after: { gain: FIRST_GONE.risk }, stops: 'Own' })}
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
          ['gain', 'each time it has gained'],
          ['loss', 'each time it has lost'],
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
