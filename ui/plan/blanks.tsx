import { useState } from 'react'
import { type SessionTime } from '@/core/plans/times'
import { InlineChoice, InlineNumber, InlineText } from '../ticket/Inline'
import css from './Plan.module.css'

/** A number in a sentence that may be left empty; what is no number is told by its look, and changes nothing. */
export function NumberBlank({
  label,
  value,
  onChange,
  needed,
  signed,
}: {
  label: string
  value: number | undefined
  onChange(value: number | undefined): void
  /** It cannot be left empty. */
  needed?: boolean
  /** It may lie below nought. */
  signed?: boolean
}) {
  const [typed, setTyped] = useState<string>()
  const shown = typed ?? (value === undefined ? '' : String(value))
  const fits = (number: number) => (signed ? Number.isFinite(number) : number > 0)
  const bad = typed !== undefined && !(typed === '' ? !needed : fits(Number(typed)))
  return (
    <span onBlur={() => setTyped(undefined)}>
      <InlineNumber
        label={label}
        value={shown}
        bad={bad}
        onChange={(text) => {
          setTyped(text)
          const number = text.trim() === '' ? undefined : Number(text)
          if (number === undefined ? !needed : fits(number)) onChange(number)
        }}
      />
    </span>
  )
}

/** A time of day in a sentence, as 15:10; one that is none is told by its look, and changes nothing. */
function ClockBlank({
  label,
  value,
  onChange,
}: {
  label: string
  value: string
  onChange(clock: string): void
}) {
  const [typed, setTyped] = useState<string>()
  const isTime = (text: string) => /^([01]\d|2[0-3]):[0-5]\d$/.test(text)
  return (
    <span onBlur={() => setTyped(undefined)}>
      <InlineNumber
        label={label}
        value={typed ?? value}
        bad={typed !== undefined && !isTime(typed)}
        onChange={(text) => {
          setTyped(text)
          if (isTime(text)) onChange(text)
        }}
      />
    </span>
  )
}

type Kind = 'none' | 'clock' | 'afterOpen' | 'beforeClose'
const START: Record<Exclude<Kind, 'none'>, SessionTime> = {
  clock: { clock: '12:00' },
  afterOpen: { afterOpen: 30 },
  beforeClose: { beforeClose: 10 },
}
const kindOf = (time: SessionTime | undefined): Kind =>
  !time ? 'none' : 'clock' in time ? 'clock' : 'afterOpen' in time ? 'afterOpen' : 'beforeClose'

/** A time of the session in a sentence: by the clock, after the open or before the close; or none. */
export function TimeBlank({
  label,
  none,
  value,
  onChange,
}: {
  label: string
  /** What stands where there is no such time. */
  none: string
  value: SessionTime | undefined
  onChange(value: SessionTime | undefined): void
}) {
  return (
    <>
      {value && 'clock' in value && (
        <ClockBlank label={label} value={value.clock} onChange={(clock) => onChange({ clock })} />
      )}
      {value && 'afterOpen' in value && (
        <NumberBlank
          label={label}
          needed
          value={value.afterOpen}
          onChange={(minutes) => onChange({ afterOpen: Math.round(minutes!) })}
        />
      )}
      {value && 'beforeClose' in value && (
        <NumberBlank
          label={label}
          needed
          value={value.beforeClose}
          onChange={(minutes) => onChange({ beforeClose: Math.round(minutes!) })}
        />
      )}{' '}
      <InlineChoice
        label={`${label} is measured`}
        value={kindOf(value)}
        options={[
          ['none', none],
          ['clock', 'by the clock'],
          ['afterOpen', 'min after the open'],
          ['beforeClose', 'min before the close'],
        ]}
        onChange={(kind) => onChange(kind === 'none' ? undefined : START[kind])}
      />
    </>
  )
}

/** Rule text in a sentence, as long as it is; an empty one changes nothing. */
export function TextBlank({
  label,
  value,
  among = [],
  onChange,
}: {
  label: string
  value: string
  /** What is proposed. */
  among?: readonly string[]
  onChange(value: string): void
}) {
  const [typed, setTyped] = useState<string>()
  const shown = typed ?? value
  return (
    <span onBlur={() => setTyped(undefined)} className={`mono ${css.text}`}>
      <InlineText
        label={label}
        among={among}
        most={400}
        value={shown}
        onChange={(text) => {
          setTyped(text)
          if (text.trim() !== '') onChange(text)
        }}
      />
    </span>
  )
}
