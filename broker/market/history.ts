import { type Bars, emptyBars, EXTRAS, sliceBars } from '@/core/market/bars'
import { resample } from '@/core/market/resample'
import { type Session } from '@/core/market/venue'
import { isIntraday, type Timeframe } from '@/core/market/timeframe'
import { type DayBar, type MinuteColumns } from './intraday'
import { type Listed } from './listing'
import { type Market } from './market'
import { type BarsAsk, type Series } from './asks'
import { Chains } from './chains'
import { optionVolumeOn } from './reports'

const MINUTE = 60_000
const DAY: Timeframe = { count: 1, unit: 'day' }

/** Serves bars of the stand-in market as of a moment: nothing that has not happened by then. */
export class History {
  /** Calendars by their length, shared by all securities so that they can be told to be the same. */
  private readonly calendars = new Map<number, { time: Float64Array; end: Float64Array }>()

  private readonly growingEnds = new Map<number, Float64Array>()

  constructor(private readonly market: Market) {}

  /** Daily bars up to a moment; the session under way is left out unless `soFar`. */
  daily(listed: Listed, now: number, soFar = false): Bars {
    const begun = this.market.sessionsBegunBy(now)
    const open = begun.length > 0 && begun[begun.length - 1].close > now
    const n = open && !soFar ? begun.length - 1 : begun.length
    const columns = this.market.dailyOf(listed)
    const bars: Bars = { ...emptyBars(0, DAY, this.market.venue.zone), ...this.calendar(begun, n) }
    for (const name of ['open', 'high', 'low', 'close'] as const) {
      const column = new Float64Array(n)
      for (let i = 0; i < n; i++) column[i] = columns[name][i] / 10_000
      bars[name] = column
    }
    bars.volume = Float64Array.from(columns.volume.subarray(0, n))
    if (open && soFar) {
      setRow(bars, n - 1, this.daySoFar(listed, begun[n - 1], now))
      bars.end = this.growing(n, bars.end)
    }
    return bars
  }

  /** Daily bars of a contract, of the last sessions in which it was listed; in steps of one session each. */
  private *contractDays(
    listed: Listed,
    now: number,
    { soFar, until, count }: { soFar: boolean; until: number; count: number },
  ): Generator<void, Bars> {
    const all = this.market.chains.sessionsOf(listed, now)
    const asked = all.filter(({ open, close }) => open < until && (soFar || close <= now))
    const sessions = asked.slice(-count)
    const bars = emptyBars(sessions.length, DAY, this.market.venue.zone)
    for (const [row, session] of sessions.entries()) {
      const growing = session.close > now
      bars.time[row] = session.open
      bars.end[row] = growing ? Infinity : session.close
      setRow(bars, row, growing ? this.daySoFar(listed, session, now) : this.wholeDay(listed, session))
      yield
    }
    return bars
  }

  /** Finished days of contracts, kept because making one takes milliseconds. */
  private readonly days = new Map<string, DayBar>()

  private wholeDay(listed: Listed, session: Session): DayBar {
    const key = `${listed.symbol} ${session.date}`
    let day = this.days.get(key)
    if (!day) {
      if (this.days.size > 50_000) this.days.clear()
      this.days.set(key, (day = this.daySoFar(listed, session, session.close - 1000)))
    }
    return day
  }

  /** Option volume of a security on each day; of the growing day, so far. */
  private optionVolume(listed: Listed, now: number, n: number): Float64Array {
    const out = new Float64Array(n)
    if (!Chains.has(listed)) return out
    const begun = this.market.sessionsBegunBy(now)
    const { volume } = this.market.dailyOf(listed)
    for (let i = 0; i < n; i++)
      out[i] =
        begun[i].close > now
          ? this.market.optionVolumeBy(listed, begun[i], now)
          : optionVolumeOn(this.market.seed, listed, begun[i].date, volume[i])
    return out
  }

  private calendar(begun: readonly Session[], n: number): { time: Float64Array; end: Float64Array } {
    let calendar = this.calendars.get(n)
    if (!calendar) {
      const pick = (key: 'open' | 'close') => Float64Array.from({ length: n }, (_, i) => begun[i][key])
      calendar = { time: pick('open'), end: pick('close') }
      this.calendars.set(n, calendar)
    }
    return calendar
  }

  /** Ends of bars of which the last is still under way; one column for all securities. */
  private growing(n: number, end: Float64Array): Float64Array {
    let made = this.growingEnds.get(n)
    if (!made) {
      made = end.slice()
      made[n - 1] = Infinity
      this.growingEnds.set(n, made)
    }
    return made
  }

  private readonly minuteCalendars = new Map<number, { time: Float64Array; end: Float64Array }>()

  /** The minutes of a session that is over: one pair of columns for all securities. */
  private minuteCalendar(session: Session, n: number): { time: Float64Array; end: Float64Array } {
    let made = this.minuteCalendars.get(session.open)
    if (!made) {
      const time = Float64Array.from({ length: n }, (_, k) => session.open + k * MINUTE)
      made = { time, end: time.map((start) => start + MINUTE) }
      this.minuteCalendars.set(session.open, made)
    }
    return made
  }

  private daySoFar(listed: Listed, session: Session, now: number): DayBar {
    const minutes = this.market.minutesOf(listed, session)
    const { at, bar } = this.market.minuteSoFar(listed, session, now)
    const day = { ...bar, open: minutes.open[0] }
    for (let k = Math.round((at - session.open) / MINUTE) - 1; k >= 0; k--) {
      day.high = Math.max(day.high, minutes.high[k])
      day.low = Math.min(day.low, minutes.low[k])
      day.volume += minutes.volume[k]
    }
    return day
  }

  /** Minute bars of one session up to a moment. */
  private minutes(listed: Listed, session: Session, now: number, soFar: boolean): Bars {
    const done = Math.min(
      (session.close - session.open) / MINUTE,
      Math.floor((now + 1000 - session.open) / MINUTE),
    )
    const growing = soFar && now < session.close && (now + 1000 - session.open) % MINUTE !== 0 ? 1 : 0
    const columns = this.market.minutesOf(listed, session)
    const bars = emptyBars(done + growing, { count: 1, unit: 'min' }, this.market.venue.zone)
    const over = done === (session.close - session.open) / MINUTE
    if (over) Object.assign(bars, this.minuteCalendar(session, done))
    for (let k = 0; k < done + growing; k++) {
      if (!over) {
        bars.time[k] = session.open + k * MINUTE
        bars.end[k] = k < done ? bars.time[k] + MINUTE : Infinity
      }
      setRow(bars, k, k < done ? at(columns, k) : this.market.minuteSoFar(listed, session, now).bar)
    }
    return bars
  }

  /** Ups and downs of the minutes from a moment on: to count them the seconds of a minute are made. */
  private countTrades(listed: Listed, session: Session, now: number, minutes: Bars, from: number): void {
    const n = minutes.time.length
    const [up, down] = [new Float64Array(n), new Float64Array(n)]
    for (let k = n - 1; k >= 0 && minutes.time[k] >= from; k--) {
      const seconds = Math.min(60, Math.floor((now - minutes.time[k]) / 1000) + 1)
      const trades = this.market.tradesOf(listed, session, k, seconds)
      up[k] = trades.up
      down[k] = trades.down
    }
    minutes.uptrades = up
    minutes.downtrades = down
  }

  /**
   * The last `limit` bars of any timeframe that begin before `to` (now, where left out) and not before `from`.
   * Minute and hour bars are made from minutes, longer ones from days. In steps of one session each.
   */
  *bars(
    listed: Listed,
    every: Timeframe,
    now: number,
    ask: Omit<BarsAsk, 'prices'>,
    adjust: (bars: Bars) => Bars = (bars) => bars,
  ): Generator<void, Series> {
    const until = Math.min(ask.to ?? Infinity, now + 1)
    const from = ask.from ?? -Infinity
    if (!isIntraday(every)) {
      const daily = listed.option
        ? yield* this.contractDays(listed, now, {
            ...{ soFar: ask.soFar, until },
            // One bar more than asked for tells whether there are more. Longer bars need all days.
            count: every.count === 1 && every.unit === 'day' ? ask.limit + 1 : Infinity,
          })
        : adjust(this.daily(listed, now, ask.soFar))
      if (ask.extras?.includes('optionvolume') && !listed.option && listed.kind !== 'Index')
        daily.optionvolume = this.optionVolume(listed, now, daily.time.length)
      const made = every.count === 1 && every.unit === 'day' ? daily : resample(daily, every).bars
      const growing = made.end[made.end.length - 1] === Infinity
      return clip(
        growing && !ask.soFar ? sliceBars(made, 0, made.time.length - 1) : made,
        from,
        until,
        ask.limit,
      )
    }
    const parts: Bars[] = []
    let rows = 0
    const sessions = listed.option
      ? this.market.chains.sessionsOf(listed, until - 1)
      : this.market.sessionsBegunBy(until - 1)
    for (let i = sessions.length - 1; i >= 0 && rows < ask.limit && sessions[i].close > from; i--) {
      const minutes = adjust(this.minutes(listed, sessions[i], now, ask.soFar))
      if (ask.extras?.includes('uptrades') || ask.extras?.includes('downtrades'))
        this.countTrades(listed, sessions[i], now, minutes, from)
      const whole = every.count === 1 && every.unit === 'min' ? minutes : resample(minutes, every).bars
      const last = whole.end.length - 1
      const { close } = sessions[i]
      // The last bar of a session may be shorter than the others: it is complete when the session is over.
      if (whole.end[last] === Infinity && now >= close) whole.end[last] = close
      const growing = whole.end[last] === Infinity
      parts.unshift(growing && !ask.soFar ? sliceBars(whole, 0, last) : whole)
      rows += parts[0].time.length
      yield
    }
    const earlier =
      sessions.length > parts.length && sessions[sessions.length - parts.length - 1].close > from
    const series = clip(joined(parts, every, this.market.venue.zone), from, until, ask.limit)
    return { bars: series.bars, cut: series.cut || (earlier && series.bars.time.length > 0) }
  }
}

const at = (m: MinuteColumns, k: number): DayBar => ({
  open: m.open[k],
  high: m.high[k],
  low: m.low[k],
  close: m.close[k],
  volume: m.volume[k],
})

function setRow(bars: Bars, row: number, bar: DayBar): void {
  bars.open[row] = bar.open / 10_000
  bars.high[row] = bar.high / 10_000
  bars.low[row] = bar.low / 10_000
  bars.close[row] = bar.close / 10_000
  bars.volume[row] = bar.volume
}

function joined(parts: Bars[], every: Timeframe, zone: string): Bars {
  const out = emptyBars(
    parts.reduce((sum, part) => sum + part.time.length, 0),
    every,
    zone,
  )
  let row = 0
  for (const part of parts) {
    for (const name of ['time', 'end', 'open', 'high', 'low', 'close', 'volume'] as const)
      out[name].set(part[name], row)
    for (const name of EXTRAS)
      if (part[name]) (out[name] ??= new Float64Array(out.time.length).fill(NaN)).set(part[name], row)
    row += part.time.length
  }
  return out
}

function clip(bars: Bars, from: number, until: number, limit: number): Series {
  let first = 0
  let last = bars.time.length
  while (last > 0 && bars.time[last - 1] >= until) last--
  while (first < last && bars.time[first] < from) first++
  return { bars: sliceBars(bars, Math.max(first, last - limit), last), cut: last - limit > first }
}
