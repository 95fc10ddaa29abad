import { type Plan } from '@/core/plans/document'
import { putsOff } from '@/core/plans/putsOff'
import { InlineChoice } from '../ticket/Inline'
import { NumberBlank, TimeBlank } from './blanks'

/** Lengths of bars that are proposed. */
export const EVERY = ['1 min', '5 min', '15 min', '30 min', '1 hour', '1 day'] as const

interface Props {
  plan: Plan
  change(plan: Plan): void
}

/** When it looks, and within which times and on which days it enters. */
export function WhenPart({ plan, change }: Props) {
  const put = (part: Partial<Plan['when']>) => change({ ...plan, when: { ...plan.when, ...part } })
  return (
    <>
      <LookBlank plan={plan} change={change} />, entering{' '}
      {plan.sides.some((side) => putsOff(plan, side)) && 'in the session after it '}from{' '}
      <TimeBlank
        label="Enters from"
        none="the open"
        value={plan.when.from}
        onChange={(from) => put({ from })}
      />{' '}
      until{' '}
      <TimeBlank
        label="Enters until"
        none="the close"
        value={plan.when.until}
        onChange={(until) => put({ until })}
      />
      , <DaysBlank days={plan.when.weekdays} change={(weekdays) => put({ weekdays })} />
    </>
  )
}

/** 1 is Monday; venues are closed at weekends. */
const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday']
const WORKDAYS = [1, 2, 3, 4, 5]

/** On every day, or on those that are chosen: the last one of them stays. */
function DaysBlank({
  days,
  change,
}: {
  days: readonly number[] | undefined
  change(days: number[] | undefined): void
}) {
  return (
    <>
      <InlineChoice
        label="Days"
        value={days ? 'some' : 'every'}
        options={[
          ['every', 'on every day'],
          ['some', 'on'],
        ]}
        onChange={(next) => change(next === 'every' ? undefined : WORKDAYS)}
      />
      {days &&
        DAYS.map((name, i) => {
          const day = i + 1
          const on = days.includes(day)
          return (
            <label key={name} style={{ fontSize: 14, marginLeft: 8, whiteSpace: 'nowrap' }} title={name}>
              <input
                type="checkbox"
                aria-label={name}
                checked={on}
                disabled={on && days.length === 1}
                onChange={() => change(WORKDAYS.filter((one) => (one === day ? !on : days.includes(one))))}
              />{' '}
              {name.slice(0, 2)}
            </label>
          )
        })}
    </>
  )
}

type Look = 'Bar' | 'Tick' | 'Event' | 'minutes'

/** How often it looks, and on which bars. */
function LookBlank({ plan, change }: Props) {
  const { look } = plan.when
  const every = plan.sides[0].if.every
  const kind: Look = typeof look === 'object' ? 'minutes' : look
  const put = (next: Plan['when']['look']) => change({ ...plan, when: { ...plan.when, look: next } })
  return (
    <>
      <InlineChoice
        label="Looks"
        value={kind}
        options={[
          ['Bar', 'at the end of every'],
          ['Tick', 'at every quote, on'],
          ['Event', 'when an event comes, on'],
          ['minutes', 'every so many minutes, on'],
        ]}
        onChange={(next) => put(next === 'minutes' ? { minutes: 5 } : next)}
      />{' '}
      <InlineChoice
        label="Bars of the condition"
        value={every}
        options={[...new Set([...EVERY, every])].map((one) => [one, one] as const)}
        onChange={(next) =>
          change({ ...plan, sides: plan.sides.map((one) => ({ ...one, if: { ...one.if, every: next } })) })
        }
      />{' '}
      {kind === 'Bar' ? 'bar' : 'bars'}
      {typeof look === 'object' && (
        <>
          , every{' '}
          <NumberBlank
            label="Minutes between looks"
            needed
            value={look.minutes}
            onChange={(minutes) => put({ minutes: Math.min(390, Math.max(1, Math.round(minutes!))) })}
          />{' '}
          minutes
        </>
      )}
    </>
  )
}
