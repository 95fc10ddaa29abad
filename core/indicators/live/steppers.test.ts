import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { gappyPrices } from '@/tests/bars'
import { INDICATORS } from '..'
import { type Indicator } from '../types'
import { stepperOf } from './steppers'

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

const alike = (a: number, b: number) =>
  Number.isNaN(a) || Number.isNaN(b)
    ? Number.isNaN(a) && Number.isNaN(b)
    : Math.abs(a - b) <= 1e-9 * Math.max(1, Math.abs(b))

describe('one bar at a time gives what whole columns give', () => {
  it.each(INDICATORS.all().map((indicator) => [indicator.name, indicator] as const))('%s', (_, indicator) => {
    fc.assert(
      fc.property(gappyPrices(60), fc.integer({ min: 2, max: 9 }), (xs, n) => {
        const params = paramsOf(indicator, n)
        const ins = inputsOf(indicator, xs)
        const columns = indicator.outputs.map(() => new Float64Array(xs.length))
        indicator.column(ins, params, columns)
        const step = stepperOf(indicator, params)
        const outs = new Float64Array(indicator.outputs.length)
        for (let i = 0; i < xs.length; i++) {
          // Ticks of the growing bar are tried first and must leave nothing behind.
          const tick = ins.map((column, c) =>
            indicator.input.includes('session') ? column[i] : column[i] + c - 0.3,
          )
          step(tick, outs, false)
          step(
            ins.map((column) => column[i]),
            outs,
            true,
          )
          columns.forEach((column, o) => {
            if (!alike(outs[o], column[i]))
              throw new Error(`${indicator.outputs[o].name} at ${i}: ${outs[o]} where ${column[i]} is wanted`)
          })
        }
        expect(true).toBe(true)
      }),
      { numRuns: 40 },
    )
  })
})
