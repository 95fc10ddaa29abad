import { type Never } from '@/core/plans/document'
import { InlineAction, InlineChoice } from '../ticket/Inline'
import { NumberBlank, TimeBlank } from './blanks'
import css from './Plan.module.css'

/** Limits that hold whatever the other clauses say; one that is left empty is none. */
export function NeverPart({ never, change }: { never: Never; change(never: Never): void }) {
  const blank = (
    label: string,
    name: Exclude<keyof Never, 'hours' | 'lossCounts'>,
    fits = (value: number) => value,
  ) => (
    <NumberBlank
      label={label}
      value={never[name]}
      onChange={(value) => change({ ...never, [name]: value === undefined ? undefined : fits(value) })}
    />
  )
  const setHours = (hours: Never['hours']) =>
    change({ ...never, hours: hours?.from || hours?.until ? hours : undefined })
  const whole = (value: number) => Math.max(1, Math.round(value))
  return (
    <>
      more than {blank('Entries a day in one security', 'entriesPerSecurityAndDay', whole)} entries a day in
      one security, {blank('Entries a day', 'entriesPerDay', whole)} a day or{' '}
      {blank('Entries in all', 'entriesInAll', whole)} ever; more than{' '}
      {blank('Most in one security', 'exposurePerSecurity')} money in one security,{' '}
      {blank('Most in all', 'exposure')} in all or{' '}
      {blank('Share of the equity', 'share', (value) => Math.min(100, value))} % of the equity, its share;
      {blank('Largest order', 'largestOrder')} in one order; after a loss of{' '}
      {blank('Most lost in a day', 'lossPerDay')} in a day
      {never.lossPerDay !== undefined && (
        <>
          ,{' '}
          <InlineChoice
            label="What the loss counts"
            value={never.lossCounts ?? 'Realised'}
            options={[
              ['Realised', 'realised'],
              ['WithOpen', 'open losses counted'],
            ]}
            onChange={(counts) =>
              change({ ...never, lossCounts: counts === 'Realised' ? undefined : counts })
            }
          />
        </>
      )}
      ; with less than {blank('Buying power that is left', 'freeBuyingPower')} of buying power left; at a
      price more than {blank('Farthest from the last price', 'collar', (value) => Math.min(100, value))} %
      away from the last;{' '}
      {never.hours && (
        <>
          before{' '}
          <TimeBlank
            label="Never before"
            none="no time"
            value={never.hours.from}
            onChange={(from) => setHours({ ...never.hours, from })}
          />{' '}
          or from{' '}
          <TimeBlank
            label="Never from"
            none="no time"
            value={never.hours.until}
            onChange={(until) => setHours({ ...never.hours, until })}
          />{' '}
          on;{' '}
        </>
      )}
      on quotes older than{' '}
      <NumberBlank
        label="Oldest quote"
        needed
        value={never.quoteAge}
        onChange={(value) => change({ ...never, quoteAge: whole(value!) })}
      />{' '}
      seconds, or where more than {blank('Bars that may be missing', 'barsBehind', whole)} bars are missing
      {!never.hours && (
        <span className={css.more}>
          <InlineAction
            label="Bound the hours"
            onAct={() => setHours({ from: { afterOpen: 5 }, until: { beforeClose: 5 } })}
          >
            bound the hours
          </InlineAction>
        </span>
      )}
    </>
  )
}
