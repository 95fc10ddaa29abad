'use client'
import { Button, Popover, Select } from '@mantine/core'
import { useState } from 'react'
import { type Timeframe } from '@/core/market/timeframe'
import { checkMeasure, print } from '@/core/rules'
import { type LookPanel } from '@/store/db'
import { MeasureInput } from '../find/MeasureInput'
import css from './Look.module.css'
import { changeLayout } from './useLayout'

/** Measures often wanted on a chart, several of one kind together. */
const READY: Record<string, string[]> = {
  'opening range': ['opening(25 min).high', 'opening(25 min).low'],
  'session before': ['prior.high', 'prior.low', 'prior.close'],
  'session vwap': ['vwap'],
}

/** Adds measures to the chart: over the price or in panels beneath, any number of them. */
export function MeasurePicker({
  symbol,
  panels,
  every,
}: {
  symbol: string
  panels: readonly LookPanel[]
  every: Timeframe
}) {
  const [open, setOpen] = useState(false)
  const [text, setText] = useState('')
  const [where, setWhere] = useState('price')
  const checked = checkMeasure(text, every)
  const others = panels.filter((p) => p.id !== 'price')
  const add = (measures: string[], into: string) =>
    changeLayout(symbol, (layout) => {
      const id = into === 'new' ? `panel ${layout.panels.length + 1} ${Date.now() % 10_000}` : into
      const before = layout.panels.find((p) => p.id === id)
      const panel = { id, measures: [...new Set([...(before?.measures ?? []), ...measures])] }
      return {
        panels: before ? layout.panels.map((p) => (p.id === id ? panel : p)) : [...layout.panels, panel],
      }
    })
  const draw = () => {
    if (!checked.type) return
    void add([print(checked.tree)], where)
    setText('')
  }
  const all = panels.flatMap((panel) => panel.measures.map((measure) => ({ panel, measure })))
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-start" trapFocus>
      <Popover.Target>
        <button type="button" className="blank" onClick={() => setOpen(!open)}>
          measures ({all.length})
        </button>
      </Popover.Target>
      <Popover.Dropdown w={340}>
        <form
          onSubmit={(e) => {
            e.preventDefault()
            draw()
          }}
        >
          <MeasureInput
            label="Draw a measure"
            hint="ema(close, 33), or a word such as average"
            every={every}
            value={text}
            onChange={setText}
            onEnter={draw}
          />
          <div className={css.row}>
            <Select
              label="Where"
              // Its list lies within, or choosing would close the popover.
              comboboxProps={{ withinPortal: false }}
              data={[
                { value: 'price', label: 'over the price' },
                ...others.map((p, i) => ({
                  value: p.id,
                  label: `panel ${i + 1}: ${p.measures[0] ?? 'empty'}`,
                })),
                { value: 'new', label: 'a new panel' },
              ]}
              value={where}
              onChange={(next) => setWhere(next ?? 'price')}
              allowDeselect={false}
              style={{ flex: 1 }}
            />
            <Button type="submit" disabled={!checked.type}>
              Draw
            </Button>
          </div>
        </form>
        <div className={css.ready}>
          {Object.entries(READY).map(([name, measures]) => (
            <Button key={name} size="xs" variant="default" onClick={() => add(measures, 'price')}>
              {name}
            </Button>
          ))}
        </div>
        {all.map(({ panel, measure }) => (
          <div key={`${panel.id} ${measure}`} className={css.drawnRow}>
            <code>{measure}</code>
            <span className="soft">{panel.id === 'price' ? 'over the price' : 'panel'}</span>
            <Button
              size="xs"
              variant="subtle"
              aria-label={`Take ${measure} away`}
              onClick={() =>
                changeLayout(symbol, (layout) => ({
                  panels: layout.panels
                    .map((p) =>
                      p.id === panel.id ? { ...p, measures: p.measures.filter((m) => m !== measure) } : p,
                    )
                    .filter((p) => p.measures.length > 0),
                }))
              }
            >
              ×
            </Button>
          </div>
        ))}
      </Popover.Dropdown>
    </Popover>
  )
}
