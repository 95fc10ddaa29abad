import { useState } from 'react'
import { type SessionTime } from '@/core/plans/times'
import { InlineChoice, InlineNumber, InlineText } from '../ticket/Inline'
import css from './Plan.module.css'

/** Larger numbers are a slip of the keys. */
const MOST = 1e12

/** Why a text is no number that a blank takes; undefined if it is one. A comma may stand for a point or for thousands, so it is asked about. */
function wrongNumber(
  text: string,
  { needed, signed }: { needed?: boolean; signed?: boolean },
): string | undefined {
  const plain = text.trim()
  if (plain === '') return needed ? 'fill in a number' : undefined
  if (plain.includes(','))
    return `write ${plain.replaceAll(',', '')}${/^-?\d+,\d{1,2}$/.test(plain) ? ` or ${plain.replace(',', '.')}` : ''}`
  const number = Number(plain)
  if (!Number.isFinite(number)) return `“${plain.slice(0, 20)}” is no number`
  if (Math.abs(number) > MOST) return 'the number is too large'
  return signed || number > 0 ? undefined : 'write a number above 0'
}

/** A number in a sentence that may be left empty; what it cannot take stays as it was typed, and it says why. */
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
  const wrong = typed === undefined ? undefined : wrongNumber(typed, { needed, signed })
  return (
    // What is wrong stays as it was typed until it is mended.
    <span onBlur={() => wrong === undefined && setTyped(undefined)}>
      <InlineNumber
        label={label}
        value={shown}
        bad={wrong !== undefined}
        onChange={(text) => {
          setTyped(text)
          if (wrongNumber(text, { needed, signed }) !== undefined) return
          onChange(text.trim() === '' ? undefined : Number(text))
        }}
      />
      {wrong && (
        <span role="alert" className={`refusal ${css.blankWrong}`}>
          {wrong}
        </span>
      )}
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
