import { describe, it } from '@jest/globals'
import fc from 'fast-check'
import { expectColumn } from '@/tests/bars'
import { INDICATORS } from '.'

/** Columns of an indicator over the inputs that it names. */
function run(name: string, inputs: Record<string, readonly number[]>, params: number[]) {
  const indicator = INDICATORS.get(name)!
  const ins = (indicator.input as readonly string[]).map((of) => Float64Array.from(inputs[of]))
  const outs = indicator.outputs.map(() => new Float64Array(ins[0].length))
  indicator.column(ins, params, outs)
  return Object.fromEntries(indicator.outputs.map((output, k) => [output.name, outs[k]]))
}

const walk = fc
  .array(fc.integer({ min: -3, max: 3 }), { minLength: 10, maxLength: 70 })
  .map((steps) => steps.reduce<number[]>((all, step) => [...all, (all.at(-1) ?? 50) + step], []))

/** Rows at which a value stands out over so many rows on both sides: more than those before, not less than those after. */
const peaks = (xs: readonly number[], reach: number, sign: 1 | -1): number[] =>
  xs.flatMap((x, i) => {
    if (i < reach || i + reach >= xs.length) return []
    const before = xs.slice(i - reach, i).every((y) => sign * y < sign * x)
    const after = xs.slice(i + 1, i + reach + 1).every((y) => sign * y <= sign * x)
    return before && after ? [i] : []
  })

describe('turning points, straight from their definition', () => {
  it('the last swing high and low, known only after the bars that confirm them', () => {
    fc.assert(
      fc.property(walk, fc.integer({ min: 1, max: 5 }), (xs, reach) => {
        const [high, low] = [xs.map((x) => x + 1), xs.map((x) => x - 1)]
        const got = run('swing', { high, low }, [reach])
        const wanted = (of: number[], sign: 1 | -1) =>
          of.map((_, i) => of[peaks(of, reach, sign).findLast((p) => p + reach <= i) ?? -1] ?? NaN)
        expectColumn(got.high, wanted(high, 1))
        expectColumn(got.low, wanted(low, -1))
      }),
    )
  })

  it('support and resistance are the nearest of the last turns on either side of the close', () => {
    fc.assert(
      fc.property(
        walk,
        fc.integer({ min: 1, max: 4 }),
        fc.integer({ min: 1, max: 5 }),
        (xs, reach, count) => {
          const inputs = { high: xs.map((x) => x + 1), low: xs.map((x) => x - 1), close: xs }
          const turns = [
            ...peaks(inputs.high, reach, 1).map((row) => ({ row, price: inputs.high[row], order: 0 })),
            ...peaks(inputs.low, reach, -1).map((row) => ({ row, price: inputs.low[row], order: 1 })),
          ].sort((a, b) => a.row - b.row || a.order - b.order)
          const nearest = (sign: 1 | -1) =>
            xs.map((close, i) => {
              const last = turns.filter(({ row }) => row + reach <= i).slice(-count)
              const beyond = last.map(({ price }) => sign * (price - close)).filter((away) => away > 0)
              return beyond.length > 0 ? close + sign * Math.min(...beyond) : NaN
            })
          expectColumn(run('resistance', inputs, [count, reach]).value, nearest(1))
          expectColumn(run('support', inputs, [count, reach]).value, nearest(-1))
        },
      ),
    )
  })

  it('the trend is up while the last two highs and lows rise (Dow), down while they fall', () => {
    fc.assert(
      fc.property(walk, fc.integer({ min: 1, max: 3 }), (xs, reach) => {
        const [high, low] = [xs.map((x) => x + 1), xs.map((x) => x - 1)]
        const lastTwo = (of: number[], sign: 1 | -1, i: number) =>
          peaks(of, reach, sign)
            .filter((p) => p + reach <= i)
            .slice(-2)
            .map((p) => of[p])
        const wanted = xs.map((_, i) => {
          const [tops, bottoms] = [lastTwo(high, 1, i), lastTwo(low, -1, i)]
          if (tops.length < 2 || bottoms.length < 2) return NaN
          const [top, bottom] = [tops[1] - tops[0], bottoms[1] - bottoms[0]]
          return top > 0 && bottom > 0 ? 1 : top < 0 && bottom < 0 ? -1 : 0
        })
        expectColumn(run('trend', { high, low }, [reach]).value, wanted)
        const state = (way: number) => wanted.map((x) => (Number.isNaN(x) ? NaN : Number(x === way)))
        expectColumn(run('trend up', { high, low }, [reach]).value, state(1))
        expectColumn(run('trend down', { high, low }, [reach]).value, state(-1))
        expectColumn(run('trend sideways', { high, low }, [reach]).value, state(0))
      }),
    )
  })
})

describe('volume against what is usual by this time of day', () => {
  it('is the session so far over the mean of the sessions before, by the same minute', () => {
    const sessions = fc.array(fc.array(fc.integer({ min: 0, max: 900 }), { minLength: 1, maxLength: 6 }), {
      minLength: 1,
      maxLength: 9,
    })
    fc.assert(
      fc.property(sessions, fc.integer({ min: 1, max: 3 }), (days, n) => {
        const rows = days.flatMap((day, session) =>
          day.map((volume, k) => ({ volume, session, clock: 600 + 5 * k })),
        )
        const sofar = (session: number, clock: number) =>
          rows.filter((r) => r.session === session && r.clock <= clock).reduce((sum, r) => sum + r.volume, 0)
        const wanted = rows.map(({ session, clock }) => {
          const before = days
            .flatMap((day, s) => (s < session && day.length > (clock - 600) / 5 ? [s] : []))
            .slice(-n)
          const usual = before.reduce((sum, s) => sum + sofar(s, clock), 0) / before.length
          return before.length === n && usual > 0 ? sofar(session, clock) / usual : NaN
        })
        const inputs = {
          volume: rows.map((r) => r.volume),
          session: rows.map((r) => r.session),
          clock: rows.map((r) => r.clock),
        }
        expectColumn(run('usualvolume', inputs, [n]).value, wanted)
      }),
    )
  })
})
