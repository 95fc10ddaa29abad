import { cases } from '@/tests/cases'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { gappyPrices } from '@/tests/bars'
import { INDICATORS } from '.'
import { type Indicator } from './types'
import { Slots } from './slots'

/** Columns of the inputs of an indicator from prices; sessions of five bars of ten minutes. */
function inputsOf({ input }: Indicator, xs: readonly number[]): Float64Array[] {
  const column = (of: (x: number, i: number) => number) => Float64Array.from(xs, of)
  if (input === 'series') return [column((x) => x)]
  if (input === 'two series') return [column((x) => x), column((x, i) => x / 2 + Math.cos(i))]
  return input.map((name) => {
    if (name === 'session') return column((_, i) => Math.floor(i / 5))
    if (name === 'began') return column((_, i) => 570 + 10 * (i % 5))
    if (name === 'clock') return column((_, i) => 580 + 10 * (i % 5))
    if (name === 'volume') return column((x, i) => Math.round(x * 100) + (i % 7))
    return column((x) => x + (name === 'high' ? 1 : name === 'low' ? -1 : name === 'open' ? 0.5 : 0))
  })
}

const paramsOf = (indicator: Indicator, n: number) =>
  indicator.parameters.map((parameter, i) =>
    parameter.minutes ? 20 : parameter.whole ? Math.max(parameter.min, n + i) : (parameter.preset ?? 2),
  )

/** A step form in a room of its own, as a machine has it. */
function started(indicator: Indicator, params: readonly number[]) {
  const measured = new Slots()
  indicator.steps(params, measured)
  const room = new Float64Array(measured.size)
  return { room, step: indicator.steps(params, new Slots(room)) }
}

const same = (a: ArrayLike<number>, b: ArrayLike<number>) => Array.from(a).every((x, i) => Object.is(x, b[i]))

describe('one bar at a time gives what whole columns give, to the last bit', () => {
  it.each(INDICATORS.all().map((indicator) => [indicator.name, indicator] as const))('%s', (_, indicator) => {
    fc.assert(
      fc.property(gappyPrices(60), fc.integer({ min: 2, max: 9 }), fc.nat(59), (xs, n, stop) => {
        const params = paramsOf(indicator, n)
        const ins = inputsOf(indicator, xs)
        const columns = indicator.outputs.map(() => new Float64Array(xs.length))
        indicator.column(ins, params, columns)
        let machine = started(indicator, params)
        const outs = new Float64Array(indicator.outputs.length)
        for (let i = 0; i < xs.length; i++) {
          const before = machine.room.slice()
          const tick = ins.map((column, c) =>
            indicator.input.includes('session') ? column[i] : column[i] + c - 0.3,
          )
          machine.step(Float64Array.from(tick), outs, false)
          if (!same(machine.room, before)) throw new Error(`the tick of bar ${i} left something behind`)
          if (i === stop) {
            // Saved, and put back into a machine that has seen nothing.
            machine = started(indicator, params)
            machine.room.set(before)
          }
          machine.step(
            Float64Array.from(ins, (column) => column[i]),
            outs,
            true,
          )
          columns.forEach((column, o) => {
            // Nought has two signs; which one is of no concern.
            if (!Object.is(outs[o] + 0, column[i] + 0))
              throw new Error(`${indicator.outputs[o].name} at ${i}: ${outs[o]} where ${column[i]} is wanted`)
          })
        }
      }),
      { numRuns: cases(20) },
    )
  })

  it('a room that is too small is refused', () => {
    expect(() => INDICATORS.get('sma')!.steps([5], new Slots(new Float64Array(3)))).toThrow('no room')
  })
})
