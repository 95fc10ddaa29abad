import { dayNumber } from '../../market/figures'
import { type Column, type Form } from '../exec/form'
import { HOLDS } from '../verdict'
import { type FunctionWord } from './types'

/**
 * Average price weighted by volume since the last row on which it starts; unknown before the first. Inputs are high,
 * low, close, volume, and what tells the start: a condition that comes true, or the day of the bar that reaches `from`.
 */
function since(from: number | undefined): Form {
  const holds = (x: number) => (from === undefined ? x === HOLDS : x >= from)
  return {
    column: ([high, low, close, volume, anchor]: readonly Column[], [out]) => {
      let [turnover, traded, before] = [NaN, NaN, false]
      for (let i = 0; i < out.length; i++) {
        const now = holds(anchor[i])
        if (now && !before) turnover = traded = 0
        turnover += ((high[i] + low[i] + close[i]) / 3) * volume[i]
        traded += volume[i]
        before = now
        out[i] = traded > 0 ? turnover / traded : NaN
      }
    },
    steps: (slots) => {
      const [turnover, traded, before] = [slots.cell(NaN), slots.cell(NaN), slots.cell()]
      return (ins, outs, keep) => {
        const high = ins[0]
        const low = ins[1]
        const close = ins[2]
        const volume = ins[3]
        const anchor = ins[4]
        const now = holds(anchor)
        const starts = now && before[0] === 0
        const money = (starts ? 0 : turnover[0]) + ((high + low + close) / 3) * volume
        const shares = (starts ? 0 : traded[0]) + volume
        outs[0] = shares > 0 ? money / shares : NaN
        if (!keep) return
        turnover[0] = money
        traded[0] = shares
        before[0] = Number(now)
      }
    },
  }
}

export const VWAPSINCE: FunctionWord = {
  kind: 'function',
  name: 'vwapsince',
  usage: 'vwapsince(condition)',
  doc: 'Average price weighted by volume since the condition last came true, or since a date: vwapsince("2026-03-02").',
  source: 'Definition; typical price of each bar times its volume over the volume',
  also: ['anchored vwap', 'avwap'],
  unknown: 'its start has not come yet on these bars, or nothing was traded since',
  opposite: { goes: 'price' },
  takes: ['anchor'],
  gives: 'price',
  needs: ([of], needs) => needs(of),
  means: {
    graph: ({ args: [anchor] }, site) => {
      const columns = (['high', 'low', 'close', 'volume'] as const).map((name) => site.column(name))
      const day = anchor.kind === 'text' ? dayNumber(anchor.value) : undefined
      const from = day === undefined ? site.of(anchor) : site.column('session')
      return site.form(`vwapsince ${day ?? ''}`, 'numbers', since(day), [...columns, from])
    },
  },
}
