'use client'
import { Combobox, useCombobox } from '@mantine/core'
import { useState } from 'react'
import { INDICATORS } from '@/core/indicators'
import { type Node, parse, print } from '@/core/rules'
import { ENTRIES, type Entry, NAMES } from '@/core/rules/words'
import { resolveCall } from '@/core/rules/resolve'
import { search } from '@/core/rules/search'
import { InlineChoice, InlineNumber } from '../../ticket/Inline'
import { RuleEditor } from '../RuleEditor'
import css from './Builder.module.css'
import { useValueCheck } from './useValueCheck'

const NUMBER = 'a number'
const OWN = 'in my own words'

interface Simple {
  name: string
  series?: string
  params: number[]
  output?: string
}

/** A value that blanks can show: a series, a figure, or an indicator of a plain series. */
function simpleOf(node: Node | undefined): Simple | undefined {
  if (!node || (node.kind !== 'name' && node.kind !== 'call')) return undefined
  if (node.kind === 'name' && NAMES.has(node.name)) return { name: node.name, params: [] }
  const indicator = INDICATORS.get(node.name)
  if (!indicator || indicator.input === 'two series') return undefined
  const call = resolveCall(
    node.kind === 'call' ? node : { kind: 'call', name: node.name, args: [] },
    indicator,
  )
  if ('code' in call) return undefined
  const [series] = call.series
  if (series && (series.kind !== 'name' || !NAMES.has(series.name))) return undefined
  return {
    name: node.name,
    series: series?.kind === 'name' ? series.name : undefined,
    params: call.params,
    output: indicator.outputs[call.output].name,
  }
}

/** A length, or a time of day, which is held below nought. */
const lengthText = (minutes: number): string =>
  minutes > 0 ? `${minutes} min` : print({ kind: 'time', minutes: -minutes })

function textOf({ name, series, params, output }: Simple): string {
  const indicator = INDICATORS.get(name)
  if (!indicator) return name
  const written = params.map((p, i) => (indicator.parameters[i].minutes ? lengthText(p) : String(p)))
  const inside = [...(series ? [series] : []), ...written]
  const first = indicator.outputs[0].name
  return `${name}${inside.length > 0 ? `(${inside.join(', ')})` : ''}${output && output !== first ? `.${output}` : ''}`
}

/** Names that give a yes/no, or a number, of one security. */
const named = (condition: boolean): Entry[] =>
  ENTRIES.filter((entry) => {
    if (entry.kind === 'function' || INDICATORS.get(entry.name)?.input === 'two series') return false
    const unit = INDICATORS.get(entry.name)?.outputs[0].unit ?? NAMES.get(entry.name)?.unit
    return (unit === 'state' || unit === 'moment') === condition
  })

const SERIES = ['close', 'open', 'high', 'low', 'volume']

/** A value as part of a sentence: each blank is filled in where it stands; what blanks cannot show is written. */
export function ValueBlank({
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
  const indicator = simple && INDICATORS.get(simple.name)
  const choose = (name: string) => {
    if (name === simple?.name) return
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
  const parameter = (i: number) => {
    const { name, min, max, minutes } = indicator!.parameters[i]
    const length = /length/i.test(name) && !minutes
    return (
      <span key={name}>
        {i === 0 ? (length || minutes ? ' over ' : ` with ${name} `) : length ? ', ' : `, ${name} `}
        <Amount
          label={`${label}: ${name}`}
          value={simple!.params[i]}
          onChange={(next) =>
            next >= min &&
            next <= max &&
            onChange(textOf({ ...simple!, params: simple!.params.with(i, next) }))
          }
        />
        {minutes ? ' min' : length && indicator!.parameters.length === 1 ? ' bars' : ''}
      </span>
    )
  }
  return (
    <span className={css.value} role="group" aria-label={label}>
      {simple && indicator && indicator.outputs.length > 1 && (
        <>
          the{' '}
          <InlineChoice
            label={`${label}: which`}
            value={simple.output ?? indicator.outputs[0].name}
            options={indicator.outputs.map(({ name }) => [name, name] as const)}
            onChange={(output) => onChange(textOf({ ...simple, output }))}
          />{' '}
          of{' '}
        </>
      )}
      {simple && (
        <NameChoice label={`${label}: what`} name={simple.name} condition={condition} onChoose={choose} />
      )}
      {simple?.series && (
        <>
          {' of '}
          <InlineChoice
            label={`${label}: of`}
            value={simple.series}
            options={SERIES.map((name) => [name, name] as const)}
            onChange={(series) => onChange(textOf({ ...simple, series }))}
          />
        </>
      )}
      {simple && indicator?.parameters.map((_, i) => parameter(i))}
      {!simple && (
        <>
          {plain ? (
            <WrittenNumber key={value} label={`${label}: text`} value={value} onChange={onChange} />
          ) : (
            <WrittenValue
              key={value}
              value={tree ? print(tree) : value}
              label={`${label}: text`}
              condition={condition}
              onChange={onChange}
            />
          )}{' '}
          <NameChoice
            label={`${label}: what`}
            name={plain ? NUMBER : OWN}
            condition={condition}
            onChoose={choose}
            quiet
          />
        </>
      )}
    </span>
  )
}

/** A name in the sentence; choosing it opens a search over every name, by what it is called and what it does. */
function NameChoice({
  label,
  name,
  condition,
  onChoose,
  quiet = false,
}: {
  label: string
  name: string
  condition: boolean
  onChoose(name: string): void
  quiet?: boolean
}) {
  const [asked, setAsked] = useState('')
  const combobox = useCombobox({
    onDropdownClose: () => setAsked(''),
    onDropdownOpen: () => combobox.focusSearchInput(),
  })
  const found = search(asked, named(condition)).slice(0, 40)
  const others = condition ? [OWN] : [NUMBER, OWN]
  return (
    <Combobox
      store={combobox}
      width={330}
      position="bottom-start"
      onOptionSubmit={(chosen) => {
        combobox.closeDropdown()
        onChoose(chosen)
      }}
    >
      <Combobox.Target targetType="button">
        <button
          type="button"
          className="blank"
          aria-label={`${label}: ${name}`}
          onClick={() => combobox.toggleDropdown()}
        >
          {quiet ? <span className="soft">{name}</span> : name}
        </button>
      </Combobox.Target>
      <Combobox.Dropdown>
        <Combobox.Search
          value={asked}
          onChange={(e) => {
            setAsked(e.currentTarget.value)
            combobox.updateSelectedOptionIndex()
          }}
          aria-label={`${label}: search`}
          placeholder="average, range, gap …"
        />
        <Combobox.Options mah={300} style={{ overflowY: 'auto' }}>
          {found.map((entry) => (
            <Combobox.Option key={entry.name} value={entry.name} active={entry.name === name}>
              <span className={css.optionName}>{entry.name}</span> <span className="soft">{entry.doc}</span>
            </Combobox.Option>
          ))}
          {others
            .filter((one) => one.includes(asked.toLowerCase()) || found.length === 0)
            .map((one) => (
              <Combobox.Option key={one} value={one}>
                <em>{one}</em>
              </Combobox.Option>
            ))}
        </Combobox.Options>
      </Combobox.Dropdown>
    </Combobox>
  )
}

/** A parameter in the sentence: taken over as it is typed, once it is a number. */
function Amount({ label, value, onChange }: { label: string; value: number; onChange(value: number): void }) {
  const [text, setText] = useState<string>()
  const bad = text !== undefined && !(Number(text) > 0)
  return (
    <span onBlur={() => setText(undefined)}>
      <InlineNumber
        label={label}
        value={text ?? String(value)}
        bad={bad}
        onChange={(typed) => {
          setText(typed)
          if (Number(typed) > 0) onChange(Number(typed))
        }}
      />
    </span>
  )
}

/** A number with its unit ("50", "$18", "5%", "09:45"), taken over when it is left or Enter is pressed. */
function WrittenNumber({
  value,
  label,
  onChange,
}: {
  value: string
  label: string
  onChange(text: string): void
}) {
  const [text, setText] = useState(value)
  const take = () => text.trim() !== '' && text !== value && onChange(text)
  return (
    <span onBlur={take} onKeyDown={(e) => e.key === 'Enter' && take()}>
      <InlineNumber label={label} value={text} onChange={setText} />
    </span>
  )
}

/** A value in rule text, taken over when it is left or Enter is pressed, so that half of it is never in the rule. */
function WrittenValue({
  value,
  label,
  condition,
  onChange,
}: {
  value: string
  label: string
  condition: boolean
  onChange(text: string): void
}) {
  const [text, setText] = useState(value)
  const check = useValueCheck(condition)
  const take = () => text.trim() !== '' && text !== value && onChange(text)
  return (
    <span className={css.written}>
      <RuleEditor
        single
        label={label}
        hint="rule text"
        value={text}
        onChange={setText}
        onRun={take}
        onLeave={take}
        check={check}
      />
    </span>
  )
}
