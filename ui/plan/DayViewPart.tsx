import { useLiveQuery } from 'dexie-react-hooks'
import { View, VIEW_TEXT } from '@/core/plans/view'
import { dayView, keepDayView } from '@/store/dayView'
import { useServices, useSession } from '../link/LinkProvider'
import { InlineChoice, InlineText } from '../ticket/Inline'
import css from './Plan.module.css'

/** What the trader thinks of the day: said once, and told to every plan that runs here. */
export function DayViewPart() {
  const { plans } = useServices()
  const session = useSession().data
  const date = session?.date
  const said = useLiveQuery(() => (date ? dayView(date) : undefined), [date])
  if (!session || !date) return null
  const put = (view: View, note: string | undefined) => {
    const next = { date, view, at: Date.parse(session.now), ...(note ? { note } : {}) }
    void keepDayView(next)
    plans.tellAll({ is: 'view', view, ...(note ? { note } : {}) })
  }
  return (
    <p className={css.tried}>
      Your view of this day:{' '}
      <InlineChoice
        label="Your view of this day"
        value={said?.view ?? 'none'}
        options={[
          ...(said ? [] : ([['none', 'not said']] as const)),
          ...View.options.map((one) => [one, VIEW_TEXT[one]] as const),
        ]}
        onChange={(next) => next !== 'none' && put(next, said?.note)}
      />
      {said && (
        <>
          , because{' '}
          <InlineText
            label="Why it goes that way"
            among={[]}
            most={400}
            value={said.note ?? ''}
            onChange={(note) => put(said.view, note)}
          />
        </>
      )}
    </p>
  )
}
