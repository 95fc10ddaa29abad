import { usualVolume as usualVolumeStep } from './live/turning'
import { type Indicator, length, value } from './types'

/** What a session has done so far, and what the session before did. */

export const vwap: Indicator = {
  name: 'vwap',
  input: ['high', 'low', 'close', 'volume', 'session'],
  parameters: [],
  outputs: value('price'),
  warmUp: () => 1,
  doc: 'Average price of the session so far, weighted by volume; begins anew with each session. Of daily bars, the typical price of the day.',
  source: 'Definition; typical price of each bar times its volume over the volume (common practice)',
  column: ([high, low, close, volume, session], _params, [out]) => {
    let [turnover, traded] = [0, 0]
    for (let i = 0; i < out.length; i++) {
      if (session[i] !== session[i - 1]) turnover = traded = 0
      turnover += ((high[i] + low[i] + close[i]) / 3) * volume[i]
      traded += volume[i]
      out[i] = traded > 0 ? turnover / traded : NaN
    }
  },
}

/** Walks over sessions: `first` at the first bar of each, with the rows of the one before (none for the first). */
function bySession(
  session: Float64Array,
  first: (row: number, before: [number, number] | undefined) => void,
) {
  let start = -1
  for (let i = 0; i < session.length; i++) {
    if (i > 0 && session[i] === session[i - 1]) continue
    first(i, start < 0 ? undefined : [start, i])
    start = i
  }
}

/** Open, high, low, close and volume of rows; unknown where one of them is. */
function whole(
  [open, high, low, close, volume]: readonly Float64Array[],
  [from, to]: [number, number],
): number[] {
  let [top, bottom, traded] = [-Infinity, Infinity, 0]
  for (let i = from; i < to; i++) {
    if (!(high[i] <= top)) top = high[i]
    if (!(low[i] >= bottom)) bottom = low[i]
    traded += volume[i]
  }
  return [open[from], top, bottom, close[to - 1], traded]
}

export const prior: Indicator = {
  name: 'prior',
  input: ['open', 'high', 'low', 'close', 'volume', 'session'],
  parameters: [],
  outputs: [
    { name: 'close', unit: 'price' },
    { name: 'open', unit: 'price' },
    { name: 'high', unit: 'price' },
    { name: 'low', unit: 'price' },
    { name: 'volume', unit: 'shares' },
  ],
  warmUp: () => 2,
  doc: 'The session before: its close, open, high, low and volume, the same all through this session.',
  source: 'Definition',
  column: (ins, _params, [close, open, high, low, volume]) => {
    const session = ins[5]
    let values = [NaN, NaN, NaN, NaN, NaN]
    bySession(session, (row, before) => {
      values = before ? whole(ins, before) : values
      for (const [k, out] of [open, high, low, close, volume].entries())
        for (let i = row; i < session.length && session[i] === session[row]; i++) out[i] = values[k]
    })
  },
}

export const pivots: Indicator = {
  name: 'pivots',
  input: ['open', 'high', 'low', 'close', 'volume', 'session'],
  parameters: [],
  outputs: ['middle', 'r1', 's1', 'r2', 's2', 'r3', 's3'].map((name) => ({ name, unit: 'price' as const })),
  warmUp: () => 2,
  doc: 'Pivot levels of the session before: its typical price (middle), and three levels above (r1, r2, r3) and below (s1, s2, s3).',
  source: 'Common practice of the trading floor: 2P − L, 2P − H, P ± (H − L), H + 2(P − L), L − 2(H − P)',
  column: (ins, _params, outs) => {
    const session = ins[5]
    bySession(session, (row, before) => {
      const [, high, low, close] = before ? whole(ins, before) : [NaN, NaN, NaN, NaN]
      const p = (high + low + close) / 3
      const levels = [
        p,
        2 * p - low,
        2 * p - high,
        p + (high - low),
        p - (high - low),
        high + 2 * (p - low),
        low - 2 * (high - p),
      ]
      for (const [k, level] of levels.entries())
        for (let i = row; i < session.length && session[i] === session[row]; i++) outs[k][i] = level
    })
  },
}

/** A state of the whole session from its first open and the range of the session before. */
const gapState = (
  name: string,
  doc: string,
  holds: (open: number, before: number[]) => boolean,
): Indicator => ({
  name,
  input: ['open', 'high', 'low', 'close', 'volume', 'session'],
  parameters: [],
  outputs: value('state'),
  warmUp: () => 2,
  doc,
  source: 'Common practice: an open outside the range of the session before',
  column: (ins, _params, [out]) => {
    const session = ins[5]
    bySession(session, (row, before) => {
      const old = before ? whole(ins, before) : [NaN, NaN, NaN]
      const known = ins[0][row] === ins[0][row] && old[1] === old[1] && old[2] === old[2]
      const answer = known ? Number(holds(ins[0][row], old)) : NaN
      for (let i = row; i < session.length && session[i] === session[row]; i++) out[i] = answer
    })
  },
})

export const gapUp = gapState(
  'gap up',
  'The session opened above the highest price of the one before; lasts all session.',
  (open, [, high]) => open > high,
)

export const gapDown = gapState(
  'gap down',
  'The session opened below the lowest price of the one before; lasts all session.',
  (open, [, , low]) => open < low,
)

export const gap: Indicator = {
  name: 'gap',
  input: ['open', 'close', 'session'],
  parameters: [],
  outputs: value('percent'),
  warmUp: () => 2,
  doc: 'How far the session opened from the close before, in percent; the same all session.',
  source: 'Definition',
  column: ([open, close, session], _params, [out]) => {
    let now = NaN
    for (let i = 0; i < out.length; i++) {
      if (i > 0 && session[i] !== session[i - 1])
        now = close[i - 1] > 0 ? 100 * (open[i] / close[i - 1] - 1) : NaN
      out[i] = now
    }
  },
}

export const opening: Indicator = {
  name: 'opening',
  input: ['open', 'high', 'low', 'session', 'began', 'clock'],
  parameters: [{ name: 'length', preset: 25, min: 1, max: 1440, whole: true, minutes: true }],
  outputs: [
    { name: 'high', unit: 'price' },
    { name: 'low', unit: 'price' },
    { name: 'middle', unit: 'price' },
    { name: 'open', unit: 'price' },
  ],
  warmUp: () => 1,
  doc: 'Range of the first minutes of the session, known once they are over: opening(25 min).high. Unknown on bars that do not end where it ends.',
  source: 'Common practice: range of the first minutes of a session',
  column: ([open, high, low, session, began, clock], [minutes], [top, bottom, middle, first]) => {
    let [a, b, start, from] = [NaN, NaN, NaN, NaN]
    let done = false
    for (let i = 0; i < open.length; i++) {
      if (i === 0 || session[i] !== session[i - 1]) {
        ;[a, b, start, from] = [high[i], low[i], began[i], open[i]]
        done = false
      }
      if (began[i] < start + minutes) {
        if (!(high[i] <= a)) a = high[i]
        if (!(low[i] >= b)) b = low[i]
        // A bar that reaches past the end of the range hides where in it the price was by then.
        if (clock[i] > start + minutes) a = b = from = NaN
      }
      done ||= clock[i] >= start + minutes
      top[i] = done ? a : NaN
      bottom[i] = done ? b : NaN
      middle[i] = (top[i] + bottom[i]) / 2
      first[i] = done ? from : NaN
    }
  },
}

export const relvolume: Indicator = {
  name: 'relvolume',
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
}

export const usualVolume: Indicator = {
  name: 'usualvolume',
  input: ['volume', 'session', 'clock'],
  parameters: [{ ...length('sessions', 20), max: 260 }],
  outputs: value('number'),
  warmUp: ([n]) => n + 1,
  doc: 'Volume of the session so far as a multiple of what is usual by this time of day over the sessions before.',
  source: 'Definition: mean over sessions of the volume traded by the same minute',
  column: ([volume, session, clock], [n], [out]) => {
    const step = usualVolumeStep([n])
    const [ins, outs] = [new Float64Array(3), new Float64Array(1)]
    for (let i = 0; i < out.length; i++) {
      ins[0] = volume[i]
      ins[1] = session[i]
      ins[2] = clock[i]
      step(ins, outs, true)
      out[i] = outs[0]
    }
  },
}
