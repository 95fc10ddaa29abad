'use client'
import { Button, NumberInput, TextInput } from '@mantine/core'
import { useState } from 'react'
import { type Drawing } from '@/core/market/drawings'
import { incrementAt, type IncrementBand, toTick } from '@/core/market/increment'
import { type Timeframe } from '@/core/market/timeframe'
import { passing, type Way } from '@/core/plans/seed'
import { StartPlan } from '../plan/StartPlan'
import { tell } from '../shell/tell'
import { useFind } from '../find/findStore'
import { PlansAt } from './ArmedWith'
import css from './Look.module.css'
import { changeLayout } from './useLayout'

/** What a drawing is called in a rule, to begin with. */
const conditionOf = (d: Drawing): string =>
  d.kind === 'zone'
    ? `close between zone("${d.name}").lower and zone("${d.name}").upper`
    : `close crosses above ${d.kind}("${d.name}")`

/** What a plan at a drawing watches for, either way: of a zone, that the price comes into it. */
const passingOf = (d: Drawing): Record<Way, string> =>
  d.kind === 'zone'
    ? {
        up: passing(`zone("${d.name}").lower`).up,
        down: passing(`zone("${d.name}").upper`).down,
        either: `${passing(`zone("${d.name}").lower`).up} or ${passing(`zone("${d.name}").upper`).down}`,
      }
    : passing(`${d.kind}("${d.name}")`)

/** Everything that is drawn: named, moved by figures, taken into the rule, taken away. */
export function DrawnList({
  symbol,
  drawings,
  steps,
  every,
}: {
  symbol: string
  /** Bars that the chart shows. */
  every: Timeframe
  drawings: readonly Drawing[]
  steps: readonly IncrementBand[]
}) {
  if (drawings.length === 0) return null
  const put = (drawing: Drawing) =>
    changeLayout(symbol, (layout) => ({
      drawings: layout.drawings.map((d) => (d.id === drawing.id ? drawing : d)),
    }))
  const use = (d: Drawing) => {
    const { rule } = useFind.getState()
    useFind.setState({ rule: rule.trim() === '' ? conditionOf(d) : `${rule} and ${conditionOf(d)}` })
    tell(`The rule now ends with: ${conditionOf(d)}`)
  }
  return (
    <section aria-label="Drawn" className={css.drawn}>
      <h3>Drawn</h3>
      {drawings.map((d) => (
        <div key={d.id} className={css.drawnRow}>
          <Name drawing={d} taken={drawings.filter((o) => o.id !== d.id).map((o) => o.name)} put={put} />
          {d.kind === 'level' && (
            <Price steps={steps} label="Price" value={d.price} put={(price) => put({ ...d, price })} />
          )}
          {d.kind === 'zone' && (
            <>
              <Price steps={steps} label="Lower" value={d.lower} put={(lower) => put({ ...d, lower })} />
              <Price steps={steps} label="Upper" value={d.upper} put={(upper) => put({ ...d, upper })} />
            </>
          )}
          {d.kind === 'line' && (
            <>
              <Price
                steps={steps}
                label="From"
                value={d.from.price}
                put={(price) => put({ ...d, from: { ...d.from, price } })}
              />
              <Price
                steps={steps}
                label="To"
                value={d.to.price}
                put={(price) => put({ ...d, to: { ...d.to, price } })}
              />
            </>
          )}
          <Button
            variant="subtle"
            size="xs"
            onClick={() => use(d)}
            title={`Into the rule: ${conditionOf(d)}`}
            aria-label={`Use ${d.name} in the rule`}
            px={6}
          >
            use
          </Button>
          <StartPlan
            label={`Plan at ${d.name}`}
            what={d.name}
            seed={() => ({ name: `${symbol} at ${d.name}`, symbols: [symbol], rule: passingOf(d), every })}
          >
            plan
          </StartPlan>
          <PlansAt symbol={symbol} name={d.name} />
          <Button
            variant="subtle"
            size="xs"
            aria-label={`Take ${d.name} away`}
            px={6}
            onClick={() =>
              changeLayout(symbol, (layout) => ({ drawings: layout.drawings.filter((o) => o.id !== d.id) }))
            }
          >
            ×
          </Button>
        </div>
      ))}
    </section>
  )
}

function Name({ drawing, taken, put }: { drawing: Drawing; taken: string[]; put(d: Drawing): void }) {
  const [text, setText] = useState(drawing.name)
  const name = text.trim()
  const wrong =
    name === '' || name.includes('"')
      ? 'A name without quotes'
      : taken.includes(name)
        ? 'Another has it'
        : undefined
  return (
    <TextInput
      size="xs"
      aria-label={`Name of ${drawing.name}`}
      value={text}
      maxLength={60}
      error={wrong}
      onChange={(e) => setText(e.currentTarget.value)}
      onBlur={() => (wrong ? setText(drawing.name) : name !== drawing.name && put({ ...drawing, name }))}
      onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
      style={{ flex: '1 1 70px', minWidth: 70 }}
    />
  )
}

/** The price of a drawing. What is typed moves it once it is complete: at Enter, or on leaving the field; arrow keys do at once. */
function Price({
  label,
  value,
  put,
  steps,
}: {
  label: string
  value: number
  put(price: number): void
  steps: readonly IncrementBand[]
}) {
  const [typed, setTyped] = useState<number | string>()
  const take = () => {
    setTyped(undefined)
    const price = typeof typed === 'number' ? toTick(steps, typed) : 0
    if (price > 0 && price !== value) put(price)
  }
  return (
    <NumberInput
      size="xs"
      aria-label={label}
      title={label}
      w={66}
      hideControls
      min={0}
      step={incrementAt(steps, value)}
      decimalScale={4}
      value={typed ?? value}
      onChange={setTyped}
      onBlur={take}
      onKeyDown={(e) => e.key === 'Enter' && take()}
      onKeyUp={(e) => /^Arrow(Up|Down)$/.test(e.key) && take()}
    />
  )
}
