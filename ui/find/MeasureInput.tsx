'use client'
import { type Timeframe } from '@/core/market/timeframe'
import { checkMeasure, sayIssue } from '@/core/rules'
import css from './Find.module.css'
import { RuleEditor } from './RuleEditor'

/** A measure as it is typed, with completion by any usual name, and what is wrong with it. */
export function MeasureInput({
  label,
  hint,
  every,
  value,
  onChange,
  onEnter,
}: {
  label: string
  hint: string
  every: Timeframe
  value: string
  onChange(text: string): void
  onEnter(): void
}) {
  const { issues } = checkMeasure(value, every)
  return (
    <div>
      <span className={css.label} aria-hidden>
        {label}
      </span>
      <RuleEditor
        single
        focus
        label={label}
        hint={hint}
        value={value}
        onChange={onChange}
        onRun={onEnter}
        check={(text) => checkMeasure(text, every)}
      />
      {value.trim() !== '' && issues.length > 0 && <p className="refusal">{sayIssue(issues[0])}</p>}
    </div>
  )
}
