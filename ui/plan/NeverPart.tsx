import { type Never } from '@/core/plans/document'
import { NumberBlank } from './blanks'

/** Limits that hold whatever the other clauses say; one that is left empty is none. */
export function NeverPart({ never, change }: { never: Never; change(never: Never): void }) {
  const blank = (label: string, name: keyof Never, fits = (value: number) => value) => (
    <NumberBlank
      label={label}
      value={never[name]}
      onChange={(value) => change({ ...never, [name]: value === undefined ? undefined : fits(value) })}
    />
  )
  const whole = (value: number) => Math.max(1, Math.round(value))
  return (
    <>
      more than {blank('Entries a day in one security', 'entriesPerSecurityAndDay', whole)} entries a day in
      one security or {blank('Entries a day', 'entriesPerDay', whole)} in all; more than{' '}
      {blank('Most in one security', 'exposurePerSecurity')} money in one security,{' '}
      {blank('Most in all', 'exposure')} in all or{' '}
      {blank('Share of the equity', 'share', (value) => Math.min(100, value))} % of the equity, its share;
      after a loss of {blank('Most lost in a day', 'lossPerDay')} in a day; with less than{' '}
      {blank('Buying power that is left', 'freeBuyingPower')} of buying power left; on quotes older than{' '}
      <NumberBlank
        label="Oldest quote"
        needed
        value={never.quoteAge}
        onChange={(value) => change({ ...never, quoteAge: whole(value!) })}
      />{' '}
      seconds
    </>
  )
}
