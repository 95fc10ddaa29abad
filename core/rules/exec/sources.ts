import { type Bars, type ExtraName } from '../../market/bars'
import { calendarOf, columnOf } from '../../market/columns'
import { drawnColumn, LineFollower } from '../../market/drawings'
import { figureColumn } from '../../market/figures'
import { barsHeld, type Holding, holdingColumn, holdingValue } from '../../market/holdings'
import { incrementAt, USUAL_INCREMENTS } from '../../market/increment'
import { type Slots } from '../../indicators/slots'
import { type About, type Source } from './source'

/** What a source is asked with besides bars: the security it is of, and the currency of each that is named. */
export interface Asked extends About {
  currencyOf(key: string): string | undefined
}

/** One kind of source in both forms: whole columns, and the value at one bar (`bar` is bars of one row). */
interface SourceKind<S extends Source> {
  column(source: S, bars: Bars, asked: Asked, out: Float64Array): void
  steps(source: S, slots: Slots): (bar: Bars, asked: Asked, keep: boolean) => number
}

/** A source whose value hangs on its own bar alone. */
const ofTheBar = <S extends Source>(column: SourceKind<S>['column']): SourceKind<S> => ({
  column,
  steps: (source) => {
    const one = new Float64Array(1)
    return (bar, asked) => {
      column(source, bar, asked, one)
      return one[0]
    }
  },
})

type Of<K extends Source['of']> = Extract<Source, { of: K }>

const bars: SourceKind<Of<'bars'>> = {
  column: ({ column }, of, _asked, out) => out.set(columnOf(of, column)),
  steps:
    ({ column }) =>
    (bar) =>
      column in bar ? (bar[column as ExtraName] as Float64Array)[0] : columnOf(bar, column)[0],
}

const figures = ofTheBar<Of<'figures'>>(({ figure }, of, { reports }, out) => {
  figureColumn(figure, reports ?? [], { ...of, session: calendarOf(of).session }, out)
})

const increment = ofTheBar<Of<'increment'>>((_source, { close }, { increments = USUAL_INCREMENTS }, out) => {
  for (let i = 0; i < out.length; i++)
    out[i] = close[i] === close[i] ? incrementAt(increments, close[i]) : NaN
})

const currency = ofTheBar<Of<'currency'>>(({ left, right }, _bars, { currencyOf }, out) => {
  const [one, other] = [currencyOf(left), currencyOf(right)]
  // What nobody told is taken to fit, as the trader's own bars.
  out.fill(one !== undefined && other !== undefined && one !== other ? NaN : 1)
})

const drawingOf = ({ kind, name }: Of<'drawing'>, { drawings }: About) =>
  drawings?.find((d) => d.name === name && d.kind === kind)

const drawing: SourceKind<Of<'drawing'>> = {
  column: (source, { time }, asked, out) => {
    const drawn = drawingOf(source, asked)
    if (drawn) drawnColumn(drawn, time, source.output, out)
    else out.fill(NaN)
  },
  steps: (source, slots) => {
    const line = source.kind === 'line' ? new LineFollower(slots) : undefined
    const [one, nought] = [new Float64Array(1), new Float64Array(1)]
    return (bar, asked, keep) => {
      const drawn = drawingOf(source, asked)
      if (line) return line.at(drawn?.kind === 'line' ? drawn : undefined, bar.time[0], keep)
      if (!drawn) return NaN
      drawnColumn(drawn, nought, source.output, one)
      return one[0]
    }
  },
}

const position: SourceKind<Of<'position'>> = {
  column: ({ what }, of, { holdings }, out) => holdingColumn(what, holdings, of, out),
  steps: ({ what }, slots) => {
    const [first, opened, count] = [slots.cell(NaN), slots.cell(NaN), slots.cell(NaN)]
    return (bar, { holdings }, keep) => {
      if (!holdings) return NaN
      const start = first[0] === first[0] ? first[0] : bar.time[0]
      const held: Holding | undefined = holdings.findLast((one) => one.since <= bar.end[0])
      const now = barsHeld(held, opened[0], count[0], start)
      if (keep) {
        first[0] = start
        opened[0] = held?.opened ?? NaN
        count[0] = now
      }
      return holdingValue(what, held, bar.close[0], now)
    }
  },
}

const candidate = ofTheBar<Of<'candidate'>>(({ what }, _bars, asked, out) => {
  out.fill(NaN)
  // It stands at the last bar: now.
  out[out.length - 1] = asked.candidate?.[what] ?? NaN
})

/** Every kind of source; a new one is put here and in source.ts, and nowhere else. */
export const SOURCES: { readonly [K in Source['of']]: SourceKind<Of<K>> } = {
  bars,
  figures,
  drawing,
  position,
  candidate,
  increment,
  currency,
}

/** The kind of a source, as it may be asked of any. */
export const kindOf = (source: Source): SourceKind<Source> => SOURCES[source.of] as SourceKind<Source>
