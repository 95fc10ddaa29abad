import { describe, expect, it } from '@jest/globals'
import { DateTime } from 'luxon'
import { barSource } from '@/core/rules'
import { type Bars } from '@/core/market/bars'
import { thinned } from '@/core/market/thin'
import { type LookLayout } from '@/store/db'
import { barsOf } from '@/tests/bars'
import { chartOption, type Drawn, panelsOf } from './chartOption'
import { type Inks } from './inks'
import { figureColumns } from './FiguresTable'
import { layoutText, readLayout } from './layoutFile'
import { linesOf } from './lines'
import { freeName } from './useLayout'
import { clampView, lastView, viewAbout } from './view'

const layout: LookLayout = {
  symbol: 'TARN',
  drawings: [
    { id: 'a', kind: 'level', name: 'shelf', price: 12.5 },
    { id: 'b', kind: 'zone', name: 'gap', upper: 14, lower: 13 },
    { id: 'c', kind: 'line', name: 'rise', from: { time: 1, price: 10 }, to: { time: 9, price: 12 } },
  ],
  panels: [{ id: 'price', measures: ['ema(close, 33)'] }],
  frames: ['1 day', '15 min'],
  changedAt: 5,
}

describe('a layout as a file', () => {
  it('comes back as it was', () => expect(readLayout(layoutText(layout))).toEqual(layout))

  const changed = (change: (file: Record<string, unknown>) => void): string => {
    const file = JSON.parse(layoutText(layout)) as Record<string, unknown>
    change(file)
    return JSON.stringify(file)
  }
  const inside = (file: Record<string, unknown>) => file.layout as Record<string, unknown>

  it.each([
    ['no JSON', 'open,high', 'it is not JSON'],
    ['an empty file', '', 'it is not JSON'],
    ['a number', '5', 'the file'],
    ['another form', changed((file) => (file.form = 'something')), 'form'],
    ['a later version', changed((file) => (file.version = 2)), 'version'],
    [
      'a drawing of no kind',
      changed((file) => (inside(file).drawings = [{ id: 'x', kind: 'note' }])),
      'drawings',
    ],
    [
      'a price that is text',
      changed((file) => (inside(file).drawings = [{ ...layout.drawings[0], price: '12' }])),
      'price',
    ],
    ['panels left out', changed((file) => delete inside(file).panels), 'panels'],
    [
      'a script for a name',
      changed((file) => (inside(file).panels = [{ id: 1, measures: '<script>' }])),
      'panels',
    ],
  ])('%s is refused, the place named', (_, text, place) => {
    expect(() => readLayout(text)).toThrow(RangeError)
    expect(() => readLayout(text)).toThrow(place)
  })
})

describe('names of what is drawn', () => {
  it('are free ones', () => {
    expect(freeName('level', [])).toBe('level 1')
    const taken = ['level 1', 'level 2', 'level 4'].map((name, i) => ({
      ...{ id: String(i), kind: 'level' as const, price: 1 },
      name,
    }))
    expect(freeName('level', taken)).toBe('level 3')
    expect(freeName('zone', taken)).toBe('zone 1')
  })
})

const source = barSource(barsOf(Array.from({ length: 60 }, (_, i) => 20 + Math.sin(i / 4) * 5)))
const inks = Object.fromEntries(
  ['ink', 'soft', 'line', 'paper', 'up', 'down', 'accent', 'value', 'amber'].map((name) => [name, name]),
) as unknown as Inks
const drawnWith = (lines: Drawn['lines']): Drawn => ({
  lines,
  ...{ hits: [], against: [], levels: [], drawings: [], marks: [], spots: [] },
})

const optionOf = (lines: Drawn['lines']) =>
  chartOption(thinned(source.base, 0, 60, 900), source.base, drawnWith(lines), inks, false).option as {
    series: { name: string; step?: unknown }[]
    grid: { left: number; right: number; outerBoundsMode: string }[]
  }

describe('lines of a chart', () => {
  it('are what the rule looks at, the columns asked for and the measures of panels, each once', () => {
    const lines = linesOf(
      source,
      ['close > sma(close, 5) and rsi(14) < 40', 'rsi(14) > 60'],
      ['rsi(14)', 'volume'],
      [
        { id: 'price', measures: ['sma(close, 5)', 'prior.high'] },
        { id: 'panel 2', measures: ['roc(close, 5)'] },
      ],
    )
    expect(lines.map((line) => [line.text, line.panel])).toEqual([
      ['sma(close, 5)', 'price'],
      ['prior.high', 'price'],
      ['roc(close, 5)', 'panel 2'],
      ['rsi(14)', undefined],
    ])
  })

  it('that hold for a session are drawn in steps, the others from bar to bar', () => {
    const lines = linesOf(source, ['close > 1'], ['prior.high', 'sma(close, 5)'], [])
    expect(lines.map((line) => line.steps)).toEqual([true, false])
    const option = optionOf(lines)
    const step = (name: string) => option.series.find((s) => s.name === name)?.step
    expect([step('prior.high'), step('sma(close, 5)')]).toEqual(['end', false])
  })

  it('broken or unknown measures of an old layout are passed over', () => {
    const panels = [{ id: 'price', measures: ['sma(close', 'nothing(4)', 'close > 4'] }]
    expect(linesOf(source, ['close >'], [], panels)).toEqual([])
  })

  it('panels stand exactly under one another, whatever their labels', () => {
    const lines = linesOf(source, ['rsi(14) > 3'], ['roc(close, 3)', 'close * volume'], [])
    expect(panelsOf(lines).map((panel) => panel.id)).toEqual(['volume', 'number', 'percent', 'money'])
    const option = optionOf(lines)
    expect(new Set(option.grid.map((g) => [g.left, g.right, g.outerBoundsMode].join()))).toEqual(
      new Set(['54,158,none']),
    )
  })
})

describe('the figures of a chart', () => {
  const zoned = (every: Bars['every']): Bars => ({ ...source.base, zone: 'Europe/Helsinki', every })

  it('carry the time of the bar with its offset', () => {
    const [when] = figureColumns(zoned({ count: 5, unit: 'min' }), [])
    const text = String(when.value(3))
    expect(text).toMatch(/\+0[23]:00$/)
    expect(DateTime.fromISO(text).toMillis()).toBe(source.base.time[3])
  })

  it('have a column for every line', () => {
    const lines = linesOf(source, ['close > 1'], ['sma(close, 5)', 'rsi(14)'], [])
    const columns = figureColumns(source.base, lines)
    expect(columns.slice(6).map((column) => column.header)).toEqual(['sma(close, 5)', 'rsi(14)'])
    expect(columns[6].value(2)).toBeNaN()
    expect(columns[6].value(20)).toBeCloseTo(lines[0].values[20], 12)
  })
})

describe('the part in view', () => {
  it('stays within the bars, and keeps its width where it can', () => {
    expect(clampView({ from: -50, to: 50 }, 400)).toEqual({ from: 0, to: 100 })
    expect(clampView({ from: 380, to: 480 }, 400)).toEqual({ from: 300, to: 400 })
    expect(clampView({ from: 10, to: 12 }, 400)).toEqual({ from: 10, to: 25 })
    expect(clampView({ from: 0, to: 900 }, 400)).toEqual({ from: 0, to: 400 })
    expect(clampView({ from: 0, to: 5 }, 3)).toEqual({ from: 0, to: 3 })
  })

  it('opens on the last bars; a hit is brought to the middle', () => {
    expect(lastView(200_000)).toEqual({ from: 199_870, to: 200_000 })
    expect(lastView(10)).toEqual({ from: 0, to: 10 })
    expect(viewAbout(1_000, 5_000)).toEqual({ from: 950, to: 1_050 })
    expect(viewAbout(3, 5_000)).toEqual({ from: 0, to: 100 })
  })
})
