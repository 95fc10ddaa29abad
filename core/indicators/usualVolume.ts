import { Slots } from './slots'
import { one } from './steps'
import { type Indicator, length, NEITHER_WAY, type Stepper, value } from './types'

/** Volume against what is usual: over the bars before, or by this time of day. */

export const relvolume: Indicator = {
  name: 'relvolume',
  also: ['relative volume', 'rvol'],
  opposite: NEITHER_WAY,
  unknown: 'a bar among them has no volume',
  input: ['volume'],
  parameters: [length('length', 20)],
  outputs: value('number'),
  warmUp: ([n]) => n + 1,
  doc: 'Volume as a multiple of its average over the bars before this one.',
  source: 'Definition',
  column: ([volume], [n], [out]) => {
    let sum = 0
    for (let i = 0; i < out.length; i++) {
      // Whole numbers of shares add up without rounding; an unknown one is waited out.
      if (i % n === 0 || sum !== sum) {
        sum = 0
        for (let k = Math.max(0, i - n); k < i; k++) sum += volume[k]
      }
      out[i] = i >= n && sum > 0 ? (volume[i] * n) / sum : NaN
      sum += volume[i] - (i >= n ? volume[i - n] : 0)
    }
  },
  steps: one(([n], slots) => {
    const [ring, row, sum] = [slots.take(n, NaN), slots.cell(), slots.cell()]
    return (x, keep) => {
      const i = row[0]
      let all = sum[0]
      if (i % n === 0 || all !== all) {
        all = 0
        for (let k = Math.max(0, i - n); k < i; k++) all += ring[k % n]
      }
      if (keep) {
        sum[0] = all + (x - (i >= n ? ring[i % n] : 0))
        ring[i % n] = x
        row[0] = i + 1
      }
      return i >= n && all > 0 ? (x * n) / all : NaN
    }
  }),
}

/**
 * What had been traded by each minute of the day in the last sessions: for each such minute, once it comes, a line of
 * slots with the minute and one, how many sessions are held, where the next goes, their sum, and the sessions.
 */
function usualVolumeSteps([n]: readonly number[], slots: Slots): Stepper {
  const width = n + 4
  const lines = slots.clocks
  const table = slots.take(lines * width)
  const [traded, day] = [slots.cell(), slots.cell(NaN)]
  /** Where the line of a minute is or would be; -1 where there is no more room. */
  const lineOf = (clock: number): number => {
    for (let k = 0, at = clock % lines; k < lines; k++, at = (at + 1) % lines) {
      const mark = table[at * width]
      if (mark === 0 || mark === clock + 1) return at * width
    }
    return -1
  }
  return (ins, outs, keep) => {
    const volume = ins[0]
    const session = ins[1]
    const clock = ins[2]
    const now = session === day[0] ? traded[0] + volume : volume
    const line = lineOf(clock)
    const full = line >= 0 && table[line] !== 0 && table[line + 1] === n
    const usual = full ? table[line + 3] / n : NaN
    outs[0] = usual > 0 ? now / usual : NaN
    if (!keep) return
    traded[0] = now
    day[0] = session
    if (now !== now || line < 0) return
    const ring = line + 4
    const next = table[line + 2]
    table[line] = clock + 1
    // Volumes are whole numbers: their sum is exact, whatever leaves it.
    table[line + 3] += now - (full ? table[ring + next] : 0)
    table[ring + next] = now
    table[line + 2] = (next + 1) % n
    table[line + 1] = Math.min(n, table[line + 1] + 1)
  }
}

export const usualVolume: Indicator = {
  name: 'usualvolume',
  also: ['relative volume at time', 'rvol', 'time of day volume'],
  opposite: NEITHER_WAY,
  unknown: 'not enough sessions before it traded at this time of day',
  input: ['volume', 'session', 'clock'],
  parameters: [{ ...length('sessions', 20), max: 260 }],
  outputs: value('number'),
  warmUp: ([n]) => n + 1,
  doc: 'Volume of the session so far as a multiple of what is usual by this time of day over the sessions before.',
  source: 'Definition: mean over sessions of the volume traded by the same minute',
  column: ([volume, session, clock], [n], [out]) => {
    const step = usualVolumeSteps([n], new Slots())
    const [ins, outs] = [new Float64Array(3), new Float64Array(1)]
    for (let i = 0; i < out.length; i++) {
      ins[0] = volume[i]
      ins[1] = session[i]
      ins[2] = clock[i]
      step(ins, outs, true)
      out[i] = outs[0]
    }
  },
  steps: usualVolumeSteps,
}
