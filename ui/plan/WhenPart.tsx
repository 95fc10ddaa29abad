import { type Plan } from '@/core/plans/document'
import { putsOff } from '@/core/plans/putsOff'
import { calendarAt, eventsAt, minutesOf } from '@/core/plans/looks'
import { InlineChoice, InlineText } from '../ticket/Inline'
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
      , <DaysBlank when={plan.when} change={put} />
    </>
  )
}

/** 1 is Monday; venues are closed at weekends. */
const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday']
const WORKDAYS = [1, 2, 3, 4, 5]

/** On every day, or on those that are chosen: the last one of them stays. */
function DaysBlank({
  when: { weekdays: days, monthDays },
  change,
}: {
  when: Plan['when']
  change(part: Pick<Plan['when'], 'weekdays' | 'monthDays'>): void
}) {
  return (
    <>
      <InlineChoice
        label="Days"
        value={days ? 'some' : monthDays ? 'month' : 'every'}
        options={[
          ['every', 'on every day'],
          ['some', 'on'],
          ['month', 'on days of the month:'],
        ]}
        onChange={(next) =>
          change({
            weekdays: next === 'some' ? WORKDAYS : undefined,
            monthDays: next === 'month' ? [1] : undefined,
          })
        }
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
                onChange={() =>
                  change({ weekdays: WORKDAYS.filter((one) => (one === day ? !on : days.includes(one))) })
                }
              />{' '}
              {name.slice(0, 2)}
            </label>
          )
        })}
      {monthDays && (
        <>
          {' '}
          <InlineText
            label="Days of the month"
            among={[]}
            value={monthDays.join(', ')}
            onChange={(text) => {
              const read = text
                .split(/[\s,]+/)
                .filter(Boolean)
                .map(Number)
              if (read.length > 0 && read.every((day) => Number.isInteger(day) && day >= 1 && day <= 31))
                change({ monthDays: [...new Set(read)] })
            }}
          />{' '}
          or the next session
        </>
      )}
    </>
  )
}

type Look = 'Bar' | 'Tick' | 'Event' | 'minutes' | 'events' | 'calendar'

const AT_THE_OPEN = { afterOpen: 1 }

/** What each way to look begins with. */
const FRESH: Record<Look, Plan['when']['look']> = {
  ...{ Bar: 'Bar', Tick: 'Tick', Event: 'Event', minutes: { minutes: 5 } },
  ...{ events: { events: AT_THE_OPEN }, calendar: { calendar: { clock: '10:00' } } },
}

/** How often it looks, and on which bars. */
function LookBlank({ plan, change }: Props) {
  const { look } = plan.when
  const every = plan.sides[0].if.every
  const kind: Look = typeof look === 'object' ? (Object.keys(look)[0] as Look) : look
  const minutes = minutesOf(look)
  const [events, calendar] = [eventsAt(look), calendarAt(look)]
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
          ['events', 'each trading day at every event since the last look, on'],
          ['calendar', 'by the calendar, on'],
          ['minutes', 'every so many minutes, on'],
        ]}
        onChange={(next) => put(FRESH[next])}
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
      {events && (
        <>
          , at{' '}
          <TimeBlank
            label="Events are looked at"
            none="the open"
            value={events}
            onChange={(at) => put({ events: at ?? AT_THE_OPEN })}
          />
        </>
      )}
      {calendar && (
        <>
          , at{' '}
          <TimeBlank
            label="Looks at"
            none="the open"
            value={calendar}
            onChange={(at) => put({ calendar: at ?? AT_THE_OPEN })}
          />
        </>
      )}
      {minutes !== undefined && (
        <>
          , every{' '}
          <NumberBlank
            label="Minutes between looks"
            needed
            value={minutes}
            onChange={(next) => put({ minutes: Math.min(390, Math.max(1, Math.round(next!))) })}
          />{' '}
          minutes
        </>
      )}
    </>
  )
}
