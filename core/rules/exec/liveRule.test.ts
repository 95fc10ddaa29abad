import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { barsOf } from '@/tests/bars'
import { type Bars, sliceBars } from '../../market/bars'
import { type Ticked } from '../../market/growing'
import { checkRule, verdictOf } from '..'
import { LiveRule } from './liveRule'

const DAY = 86_400_000
const tree = (text: string) => checkRule(text).tree!
const follow = (text: string, about = {}) =>
  new LiveRule(tree(text), { count: 1, unit: 'day' }, { zone: 'UTC', ...about })

/** Daily bars whose last one has just begun, at its open. */
function begun(closes: readonly number[]): Bars {
  const bars = barsOf(closes)
  const last = closes.length - 1
  for (const name of ['end', 'high', 'low', 'close', 'volume'] as const) bars[name] = bars[name].slice()
  bars.end[last] = Infinity
  bars.high[last] = bars.low[last] = bars.close[last] = bars.open[last]
  bars.volume[last] = 0
  return bars
}

const message = (at: number, last: number, high = last, low = last): Ticked => ({
  at,
  last,
  since: { high, low, volume: 10, uptrades: 1, downtrades: 0 },
})

describe('the growing bar is followed from every message', () => {
  it('a spike within a message counts for good, for high, reaches and crosses alike', () => {
    const bars = begun([10, 10, 10])
    const at = bars.time[2]
    for (const text of ['high > 15', 'reaches($15)', 'high crosses above 15']) {
      const live = follow(text)
      live.take(bars)
      expect(verdictOf(live.value)).toBe('fails')
      live.tick(message(at + 1000, 10.5, 16))
      expect(verdictOf(live.value)).toBe('holds')
      live.tick(message(at + 2000, 10.2))
      expect(verdictOf(live.value)).toBe('holds')
    }
  })

  it('over any messages, is what one bar of all of them would be', () => {
    const tick = fc.record({
      last: fc.integer({ min: 800, max: 1200 }),
      up: fc.nat(60),
      down: fc.nat(60),
    })
    fc.assert(
      fc.property(fc.array(tick, { minLength: 1, maxLength: 30 }), (ticks) => {
        const bars = begun([10, 10, 10])
        const live = follow('high - low > 0.5 and volume > 100')
        live.take(bars)
        ticks.forEach(({ last, up, down }, i) =>
          live.tick(message(bars.time[2] + 1000 * i, last / 100, (last + up) / 100, (last - down) / 100)),
        )
        const all = ticks.flatMap(({ last, up, down }) => [last + up, last - down])
        const [high, low] = [Math.max(1000, ...all), Math.min(1000, ...all)]
        const wanted = high - low > 50 && 10 * ticks.length > 100
        expect(verdictOf(live.value)).toBe(wanted ? 'holds' : 'fails')
      }),
    )
  })

  it('a message of the next day ends the bar and begins another', () => {
    const bars = begun([10, 11, 12])
    const live = follow('close > earlier(close, 1 bar)')
    live.take(bars)
    live.tick(message(bars.time[2] + 1000, 14))
    live.tick(message(bars.time[2] + DAY, 13))
    expect(verdictOf(live.value)).toBe('fails')
    live.tick(message(bars.time[2] + DAY + 1000, 15))
    expect(verdictOf(live.value)).toBe('holds')
  })
})

describe('bars that are fetched anew', () => {
  it('are gone on with, without being stepped again', () => {
    const live = follow('high > 15')
    const first = begun([10, 10, 10])
    live.take(first)
    live.tick(message(first.time[2] + 1000, 10, 16))
    // The market says of the same growing bar only what it saw by then.
    expect(live.take(begun([10, 10, 10]))).toBe(true)
    expect(verdictOf(live.value)).toBe('holds')
    const next = begun([10, 10, 10, 11])
    expect(live.take(next)).toBe(true)
    expect(verdictOf(live.value)).toBe('fails')
  })

  it('that tell otherwise of what was kept are refused', () => {
    const live = follow('close > 5')
    live.take(begun([10, 10, 10]))
    expect(live.take(begun([5, 5, 5]))).toBe(false)
    expect(live.take(sliceBars(begun([10, 10, 10]), 0, 1))).toBe(false)
  })
})

describe('beside other securities, and lines that were drawn', () => {
  it('both sides move', () => {
    const live = follow('close > beside("TWIN", close)')
    const [own, twin] = [begun([10, 10, 10]), begun([11, 11, 11])]
    expect(live.besides).toEqual(['TWIN'])
    live.take(own, [['TWIN', twin]])
    expect(verdictOf(live.value)).toBe('fails')
    live.tick(message(own.time[2] + 1000, 12))
    expect(verdictOf(live.value)).toBe('holds')
    live.tick(message(own.time[2] + 1000, 13), 'TWIN')
    expect(verdictOf(live.value)).toBe('fails')
  })

  it('a line stands where it is drawn', () => {
    const bars = begun([10, 10, 10])
    const line = {
      ...({ id: 'a', kind: 'line', name: 'rise' } as const),
      from: { time: bars.time[0], price: 10 },
      to: { time: bars.time[1], price: 11 },
    }
    const live = follow('close > line("rise")', { drawings: [line] })
    live.take(bars)
    expect(verdictOf(live.value)).toBe('fails')
    live.tick(message(bars.time[2] + 1000, 12.1))
    expect(verdictOf(live.value)).toBe('holds')
  })
})
