'use client'
import { NumberInput, Select, TextInput } from '@mantine/core'
import { useState } from 'react'
import { INDICATORS } from '@/core/indicators'
import { type Node, parse, print } from '@/core/rules'
import { ENTRIES, plainName } from '@/core/rules/catalogue'
import { resolveCall } from '@/core/rules/resolve'
import css from './Builder.module.css'

const NUMBER = 'a number'
const OWN = 'in my own words'

interface Simple {
  name: string
  series?: string
  params: number[]
  output?: string
}

/** A value that the boxes can show: a series, a figure, or an indicator of a plain series. */
function simpleOf(node: Node | undefined): Simple | undefined {
  if (!node || (node.kind !== 'name' && node.kind !== 'call')) return undefined
  if (node.kind === 'name' && plainName(node.name)) return { name: node.name, params: [] }
  const indicator = INDICATORS.get(node.name)
  if (!indicator || indicator.input === 'two series') return undefined
  const call = resolveCall(
    node.kind === 'call' ? node : { kind: 'call', name: node.name, args: [] },
    indicator,
  )
  if ('code' in call) return undefined
  const [series] = call.series
  if (series && (series.kind !== 'name' || !plainName(series.name))) return undefined
  return {
    name: node.name,
    series: series?.kind === 'name' ? series.name : undefined,
    params: call.params,
    output: indicator.outputs[call.output].name,
  }
}

function textOf({ name, series, params, output }: Simple): string {
  const indicator = INDICATORS.get(name)
  if (!indicator) return name
  const written = params.map((p, i) => (indicator.parameters[i].minutes ? `${p} min` : String(p)))
  const inside = [...(series ? [series] : []), ...written]
  const first = indicator.outputs[0].name
  return `${name}${inside.length > 0 ? `(${inside.join(', ')})` : ''}${output && output !== first ? `.${output}` : ''}`
}

const named = (kinds: readonly string[], condition: boolean) =>
  ENTRIES.filter((entry) => kinds.includes(entry.kind))
    .filter((entry) => {
      const unit = INDICATORS.get(entry.name)?.outputs[0].unit ?? plainName(entry.name)?.unit
      return (unit === 'state' || unit === 'moment') === condition
    })
    .filter((entry) => INDICATORS.get(entry.name)?.input !== 'two series')
    .map((entry) => entry.name)

const SERIES = ['close', 'open', 'high', 'low', 'volume']

/** Chooses a value without typing rule text; what the boxes cannot show is edited as text. */
export function ValuePicker({
  value,
  onChange,
  label,
  condition = false,
}: {
  value: string
  onChange(text: string): void
  label: string
  /** A yes/no is wanted, not a number. */
  condition?: boolean
}) {
  const tree = parse(value).tree
  const simple = simpleOf(tree)
  const plain =
    tree?.kind === 'number' || (tree?.kind === 'negate' && tree.of.kind === 'number') || tree?.kind === 'time'
  const kind = simple ? simple.name : plain ? NUMBER : OWN
  const indicator = simple && INDICATORS.get(simple.name)
  const choose = (name: string | null) => {
    if (!name || name === kind) return
    if (name === NUMBER) return onChange('50')
    if (name === OWN) return onChange(tree ? `(${print(tree)})` : 'close')
    const next = INDICATORS.get(name)
    if (!next) return onChange(name)
    onChange(
      textOf({
        name,
        series: next.input === 'series' ? (simple?.series ?? 'close') : undefined,
        params: next.parameters.map((p) => p.preset ?? 20),
      }),
    )
  }
  const data = [
    ...(condition ? [] : [{ group: 'Prices and volume', items: named(['series'], false) }]),
    { group: 'Indicators', items: named(['indicator'], condition) },
    { group: 'The company', items: named(['figure'], condition) },
    { group: 'Else', items: condition ? [OWN] : [NUMBER, OWN] },
  ].map(({ group, items }) => ({ group, items: items.map((item) => ({ value: item, label: item })) }))
  return (
    <span className={css.value} role="group" aria-label={label}>
      <Select
        size="xs"
        aria-label={`${label}: what`}
        data={data}
        value={kind}
        onChange={choose}
        searchable
        allowDeselect={false}
        comboboxProps={{ width: 220, position: 'bottom-start' }}
        maxDropdownHeight={320}
        w={kind === OWN ? 138 : 128}
      />
      {simple && indicator && (
        <>
          {simple.series && (
            <Select
              size="xs"
              aria-label={`${label}: of`}
              data={SERIES}
              value={simple.series}
              onChange={(series) => series && onChange(textOf({ ...simple, series }))}
              w={84}
              allowDeselect={false}
            />
          )}
          {indicator.parameters.map((parameter, i) => (
            <NumberInput
              key={parameter.name}
              size="xs"
              aria-label={`${label}: ${parameter.name}`}
              title={parameter.name}
              w={62}
              hideControls
              min={parameter.min}
              max={parameter.max}
              allowDecimal={!parameter.whole}
              value={simple.params[i]}
              onChange={(next) =>
                typeof next === 'number' &&
                next >= parameter.min &&
                onChange(textOf({ ...simple, params: simple.params.with(i, next) }))
              }
            />
          ))}
          {indicator.outputs.length > 1 && (
            <Select
              size="xs"
              aria-label={`${label}: which`}
              data={indicator.outputs.map((o) => o.name)}
              value={simple.output}
              onChange={(output) => output && onChange(textOf({ ...simple, output }))}
              w={96}
              allowDeselect={false}
            />
          )}
        </>
      )}
      {!simple && (
        <WrittenValue
          key={value}
          value={plain ? value : tree ? print(tree) : value}
          label={label}
          narrow={plain}
          onChange={onChange}
        />
      )}
    </span>
  )
}

/** A value as text, taken over when it is left or Enter is pressed, so that half of it is never in the rule. */
function WrittenValue({
  value,
  label,
  narrow,
  onChange,
}: {
  value: string
  label: string
  narrow: boolean
  onChange(text: string): void
}) {
  const [text, setText] = useState(value)
  const take = () => text.trim() !== '' && text !== value && onChange(text)
  return (
    <TextInput
      size="xs"
      aria-label={`${label}: text`}
      value={text}
      onChange={(e) => setText(e.currentTarget.value)}
      onBlur={take}
      onKeyDown={(e) => e.key === 'Enter' && take()}
      styles={{ input: { fontFamily: 'var(--mono)' } }}
      w={narrow ? 84 : 220}
    />
  )
}
