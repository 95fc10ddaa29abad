import { type Unfilled } from '@/core/plans/entry'
import { InlineAction, InlineChoice } from '../ticket/Inline'
import { NumberBlank } from './blanks'

/** What follows a limit on the way out that is not filled. */
export function UnfilledBlank({
  of,
  unfilled,
  change,
}: {
  of: string
  unfilled: Unfilled
  change(unfilled: Unfilled): void
}) {
  return (
    <>
      after{' '}
      <NumberBlank
        label={`Minutes at the limit${of}`}
        needed
        value={unfilled.minutes}
        onChange={(minutes) =>
          change({ ...unfilled, minutes: Math.min(390, Math.max(1, Math.round(minutes!))) })
        }
      />{' '}
      min{' '}
      <InlineChoice
        label={`What follows${of}`}
        value={unfilled.next}
        options={[
          ['Market', 'what is left at the market'],
          ['Again', 'anew, as the quotes are by then'],
        ]}
        onChange={(next) => change({ ...unfilled, next })}
      />
    </>
  )
}

/** What follows a limit that closes and is not filled. */
export function ClosingPart({
  of,
  unfilled,
  change,
}: {
  of: string
  unfilled: Unfilled | undefined
  change(unfilled: Unfilled | undefined): void
}) {
  if (!unfilled)
    return (
      <>
        {' '}
        <InlineAction
          label={`What follows when it is not filled${of}`}
          onAct={() => change({ minutes: 3, next: 'Market' })}
        >
          what follows when it is not filled
        </InlineAction>
      </>
    )
  return (
    <>
      , <UnfilledBlank of={of} unfilled={unfilled} change={change} />{' '}
      <InlineAction label={`Take away what follows${of}`} onAct={() => change(undefined)}>
        take away
      </InlineAction>
    </>
  )
}
