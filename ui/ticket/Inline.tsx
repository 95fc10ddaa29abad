'use client'
import { useId } from 'react'
import css from './Ticket.module.css'

/** A number in a sentence, filled in where it stands. */
export function InlineNumber({
  label,
  value,
  onChange,
  bad,
}: {
  label: string
  value: string
  onChange(text: string): void
  bad?: boolean
}) {
  return (
    <input
      className={`blank ${css.inlineNumber} ${bad ? 'refusal' : ''}`}
      aria-label={label}
      aria-invalid={bad || undefined}
      inputMode="decimal"
      value={value}
      style={{ width: `${Math.max(2, value.length + 0.5)}ch` }}
      onChange={(e) => onChange(e.currentTarget.value)}
      onFocus={(e) => e.currentTarget.select()}
    />
  )
}

/** One of a few words in a sentence. */
export function InlineChoice<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string
  value: T
  options: readonly (readonly [T, string])[]
  onChange(value: T): void
}) {
  return (
    <select
      className={`blank ${css.inlineChoice}`}
      aria-label={label}
      value={value}
      onChange={(e) => onChange(e.currentTarget.value as T)}
    >
      {options.map(([key, text]) => (
        <option key={key} value={key}>
          {text}
        </option>
      ))}
    </select>
  )
}

/** A day in a sentence. */
export function InlineDate({
  label,
  value,
  onChange,
}: {
  label: string
  value: string
  onChange(date: string): void
}) {
  return (
    <input
      type="date"
      className={`blank ${css.inlineNumber}`}
      style={{ width: '13ch' }}
      aria-label={label}
      value={value}
      onChange={(e) => onChange(e.currentTarget.value)}
    />
  )
}

/** A word in a sentence, one of some that are there or another. */
export function InlineText({
  label,
  value,
  among,
  most = 64,
  onChange,
}: {
  label: string
  value: string
  among: readonly string[]
  /** Letters that it may have. */
  most?: number
  onChange(text: string): void
}) {
  const list = useId()
  return (
    <>
      <input
        className={`blank ${css.inlineNumber}`}
        aria-label={label}
        value={value}
        list={list}
        maxLength={most}
        onChange={(e) => onChange(e.currentTarget.value)}
        onFocus={(e) => e.currentTarget.select()}
      />
      <datalist id={list}>
        {among.map((one) => (
          <option key={one} value={one} />
        ))}
      </datalist>
    </>
  )
}

/** A long text in a sentence, over as many lines as it needs; Enter ends it. */
export function InlineLong({
  label,
  value,
  most,
  onChange,
}: {
  label: string
  value: string
  /** Letters that it may have. */
  most: number
  onChange(text: string): void
}) {
  return (
    <textarea
      className={`blank ${css.inlineLong}`}
      aria-label={label}
      rows={1}
      value={value}
      maxLength={most}
      spellCheck={false}
      onChange={(e) => onChange(e.currentTarget.value)}
      onKeyDown={(e) => {
        if (e.key !== 'Enter') return
        e.preventDefault()
        e.currentTarget.blur()
      }}
    />
  )
}

/** Something that is done to the sentence, where it stands. */
export function InlineAction({ label, onAct, children }: { label: string; onAct(): void; children: string }) {
  return (
    <button type="button" className={css.remove} aria-label={label} onClick={onAct}>
      {children}
    </button>
  )
}
