'use client'
import { useRef, useMemo, useState } from 'react'
import { type Adjustment } from '@/core/market/adjust'
import { type Bars } from '@/core/market/bars'
import { type IncrementBand } from '@/core/market/increment'
import { dateIn, endOfDate } from '@/core/market/moments'
import { parseTimeframe, roughMinutes } from '@/core/market/timeframe'
import { type BarSource } from '@/core/rules'
import { type LookLayout } from '@/store/db'
import { useFind } from '../find/findStore'
import { countedIn } from '../market/frames'
import { useBarSource } from '../market/useBesides'
import { useKeys } from '../shell/useKeys'
import { ChartFile } from './ChartFile'
import { ChartPane, type Show } from './ChartPane'
import { DrawTools, type Tool } from './DrawTools'
import { FiguresTable } from './FiguresTable'
import { linesOf } from './lines'
import { LookSentence } from './LookSentence'
import css from './Look.module.css'
import { rowOnDate, useMarks } from './marks'
import { MeasurePicker } from './MeasurePicker'
import { type FoundHere, RuleLines } from './RuleLines'
import { useBars } from './useBars'
import { changeLayout } from './useLayout'
import { useRuleColumn } from './useRuleColumn'

const FRAMES = ['1 month', '1 week', '1 day', '1 hour', '15 min', '5 min', '3 min', '1 min']

interface Props {
  symbol: string
  bars: Bars
  source: BarSource
  layout: LookLayout
  dataId?: string
  every: string
  setEvery(every: string): void
  prices: Adjustment
  setPrices?(prices: Adjustment): void
  rule: string
  against: string
  hits: readonly number[]
  againstHits: readonly number[]
  found?: FoundHere
  steps: readonly IncrementBand[]
  days?: Bars
  show?: Show
  /** To a moment, loading what is there where it is not. */
  goTo(moment: number, width?: number): void
}

/** What is looked at as sentences, the chart of the chosen timeframe, and those of others beside it. */
export function Charts(props: Props) {
  const {
    symbol,
    bars,
    source,
    layout,
    dataId,
    every,
    rule,
    against,
    hits,
    againstHits,
    found,
    steps,
    days,
  } = props
  const { measures } = useFind()
  const [tool, setTool] = useState<Tool>()
  const [table, setTable] = useState(false)
  const picture = useRef<() => string>(undefined)
  const rules = useMemo(() => [rule, against].filter((text) => text.trim() !== ''), [rule, against])
  const lines = useMemo(
    () => linesOf(source, rules, measures, layout.panels),
    [source, rules, measures, layout.panels],
  )
  const marks = useMarks(symbol, bars, dataId !== undefined)
  useKeys([['Escape', () => setTool(undefined)]])
  const finest = dataId ? roughMinutes(bars.every) : 0
  const frames = dataId
    ? FRAMES.filter((f) => roughMinutes(parseTimeframe(f)!) >= Math.min(finest, 1440))
    : FRAMES
  const besides = layout.frames.slice(1)
  const ruler = days ?? bars
  const goToDay = (date: string) => {
    const row = rowOnDate(bars, date)
    // A day without a session is the one before.
    const moment = row !== undefined ? bars.time[row] : endOfDate(date, bars.zone) - 1
    const day = rowOnDate(ruler, date)
    props.goTo(row !== undefined ? moment : day !== undefined ? ruler.time[day] : moment)
  }
  const setEvery = (next: string) => {
    void changeLayout(symbol, () => ({ frames: [next, ...besides] }))
    props.setEvery(next)
  }
  return (
    <>
      <div className={css.tools}>
        <LookSentence
          frames={frames}
          every={every}
          setEvery={setEvery}
          besides={besides}
          setBesides={(next) => void changeLayout(symbol, () => ({ frames: [every, ...next] }))}
          prices={props.prices}
          setPrices={props.setPrices}
          first={dateIn(ruler.time[0], ruler.zone)}
          last={dateIn(ruler.time[ruler.time.length - 1], ruler.zone)}
          goTo={goToDay}
        />
        <p className={css.sentence}>
          Draw <DrawTools tool={tool} setTool={setTool} />;{' '}
          <MeasurePicker symbol={symbol} panels={layout.panels} every={bars.every} />;{' '}
          <button type="button" className="blank" aria-pressed={table} onClick={() => setTable(!table)}>
            {table ? 'as a chart' : 'as a table'}
          </button>
          ; <ChartFile picture={table ? undefined : picture} {...{ symbol, every, bars, lines, layout }} />
        </p>
      </div>
      <RuleLines
        {...{ symbol, bars, source, rule, against, hits, againstHits, found }}
        live={!dataId && !found}
      />
      {table ? (
        <FiguresTable bars={bars} lines={lines} />
      ) : (
        <div className={css.charts} data-besides={besides.length > 0 || undefined}>
          <div className={css.pane}>
            <ChartPane
              key={`${every} ${props.prices}`}
              {...{ symbol, bars, lines, hits, marks, layout, steps, tool, setTool, show: props.show, days }}
              against={againstHits}
              found={found?.row}
              onBeyond={props.goTo}
              onPicture={(make) => (picture.current = make)}
            />
          </div>
          {besides.length > 0 && (
            <div className={css.besides}>
              {besides.map((frame) => (
                <BesidePane key={frame} {...props} every={frame} rules={rules} />
              ))}
            </div>
          )}
        </div>
      )}
    </>
  )
}

function BesidePane({
  symbol,
  every,
  dataId,
  layout,
  prices,
  rules,
  steps,
}: Pick<Props, 'symbol' | 'every' | 'dataId' | 'layout' | 'prices' | 'steps'> & {
  rules: readonly string[]
}) {
  const { measures } = useFind()
  const texts = useMemo(() => [...rules, ...measures], [rules, measures])
  const bars =
    useBars(symbol, every, { dataId, soFar: !dataId, prices, extras: countedIn(texts) }).data ?? undefined
  const source = useBarSource(symbol, bars, texts, { own: dataId !== undefined, prices })
  const hits = useRuleColumn(rules[0] ?? '', source)?.rows ?? NONE
  const against = useRuleColumn(rules[1] ?? '', source)?.rows ?? NONE
  const lines = useMemo(() => (source ? linesOf(source, rules, measures, []) : []), [source, rules, measures])
  const marks = useMarks(symbol, bars, dataId !== undefined)
  return (
    <div className={css.pane}>
      <p className={css.frameName}>
        {every} <span className="soft">⌃ {hits.length} times</span>
      </p>
      {bars && bars.time.length > 0 ? (
        <ChartPane small {...{ symbol, bars, lines, hits, against, marks, layout, steps }} />
      ) : (
        <p className="soft">Fetching bars …</p>
      )}
    </div>
  )
}

const NONE: number[] = []
