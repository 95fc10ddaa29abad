import { describe, expect, it } from '@jest/globals'
import { type Bars, emptyBars } from '../../market/bars'
import { resample } from '../../market/resample'
import { parseTimeframe } from '../../market/timeframe'
import { BRACKWATER, sessionsBetween } from '../../market/venue'
import { barSource, checkMeasure, checkRule, explain, readsOf } from '..'
import { measureColumn } from '../../scan/hits'

/** Minute bars of three sessions whose highs wander. */
function minutes(): Bars {
  const starts = sessionsBetween(BRACKWATER, '2026-03-09', '2026-03-11').flatMap(({ open, close }) =>
    Array.from({ length: (close - open) / 60_000 }, (_, k) => open + 60_000 * k),
  )
  const bars = emptyBars(starts.length, { count: 1, unit: 'min' }, BRACKWATER.zone)
  for (const [i, time] of starts.entries()) {
    bars.time[i] = time
    bars.end[i] = time + 60_000
    bars.open[i] = bars.close[i] = 20 + Math.sin(i / 7)
    bars.high[i] = bars.open[i] + 0.1 * ((i * 7) % 5)
    bars.low[i] = bars.open[i] - 0.1 * ((i * 5) % 7)
    bars.volume[i] = 100
  }
  return bars
}

const ONE = minutes()
const A_SESSION = ONE.time.length / 3

/** The highest of so many first minutes of the session in which a bar ended, where they were over by then. */
function wanted(bars: Bars, length: number): number[] {
  return Array.from(bars.end, (end) => {
    const session = Math.floor(ONE.end.findLastIndex((one) => one <= end) / A_SESSION) * A_SESSION
    const over = ONE.end[session + length - 1] <= end
    return over ? Math.max(...ONE.high.subarray(session, session + length)) : NaN
  })
}

describe('the opening range is the same on any bars', () => {
  const EVERY = ['1 min', '5 min', '10 min', '15 min', '25 min', '1 hour', '2 hours', '1 day']
  it.each(
    EVERY.flatMap((every) => [`${every}: first 15 minutes`, `${every}: until 09:45`, `${every}: 25 minutes`]),
  )('%s', (name) => {
    const [every, what] = name.split(': ')
    const range = { 'first 15 minutes': '15 min', 'until 09:45': '09:45', '25 minutes': '25 min' }[what]!
    const { bars } = resample(ONE, parseTimeframe(every)!)
    const { tree, issues } = checkMeasure(`opening(${range}).high`, bars.every)
    expect(issues).toEqual([])
    const got = measureColumn(tree!, barSource(bars, [ONE]))
    expect([...got]).toEqual(wanted(bars, what === '25 minutes' ? 25 : 15))
  })

  it('names the finer bars that it is taken from, and is unknown without them', () => {
    const every = { count: 10, unit: 'min' } as const
    const tree = checkRule('close > opening(15 min).high', every).tree!
    expect(readsOf([tree], every).finer).toEqual([{ count: 5, unit: 'min' }])
    expect(readsOf([tree], { count: 5, unit: 'min' }).finer).toEqual([])
    const { bars } = resample(ONE, every)
    const daily = resample(ONE, { count: 1, unit: 'day' }).bars
    expect(readsOf([tree], daily.every).finer).toEqual([{ count: 15, unit: 'min' }])
    expect(explain(tree, barSource(daily)).sentence).toContain(
      'unknown: opening(15 min).high is not known here',
    )
    expect(explain(tree, barSource(bars)).verdict).toBe('unknown')
  })

  it('a time of day before the open has no range; after it, it begins with the open', () => {
    const of = (text: string) => measureColumn(checkMeasure(text, ONE.every).tree!, barSource(ONE))
    expect(of('opening(09:00).high').every(Number.isNaN)).toBe(true)
    expect(of('opening(10:15).low')[45]).toBe(Math.min(...ONE.low.subarray(0, 45)))
    expect(of('opening(10:15).low')[43]).toBeNaN()
  })
})
