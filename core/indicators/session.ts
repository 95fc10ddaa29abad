import { type Slots } from './slots'
import { ABOUT_NOUGHT, AS_PRICE, type Indicator, value } from './types'

/** What a session has done so far, and what the session before did. */

export const vwap: Indicator = {
  name: 'vwap',
  also: ['volume weighted average price'],
  opposite: AS_PRICE,
  unknown: 'the session has no volume yet',
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
  steps: (_params, slots) => {
    const [day, turnover, traded] = [slots.cell(NaN), slots.cell(), slots.cell()]
    return (ins, outs, keep) => {
      const high = ins[0]
      const low = ins[1]
      const close = ins[2]
      const volume = ins[3]
      const session = ins[4]
      const same = session === day[0]
      const money = (same ? turnover[0] : 0) + ((high + low + close) / 3) * volume
      const shares = (same ? traded[0] : 0) + volume
      outs[0] = shares > 0 ? money / shares : NaN
      if (!keep) return
      day[0] = session
      turnover[0] = money
      traded[0] = shares
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

/**
 * Open, high, low, close and volume of the session before, one bar at a time; the same recurrence as `whole`, of a
 * session that goes on. `ins` are open, high, low, close, volume and session.
 */
function sessionBefore(slots: Slots): (ins: Float64Array, keep: boolean) => Float64Array {
  const [day, now, before] = [slots.cell(NaN), slots.take(5, NaN), slots.take(5, NaN)]
  return (ins, keep) => {
    const begins = ins[5] !== day[0]
    const told = begins && day[0] === day[0] ? now : before
    if (!keep) return told
    if (begins) {
      before.set(told)
      now[0] = ins[0]
      now[1] = -Infinity
      now[2] = Infinity
      now[4] = 0
      day[0] = ins[5]
    }
    if (!(ins[1] <= now[1])) now[1] = ins[1]
    if (!(ins[2] >= now[2])) now[2] = ins[2]
    now[3] = ins[3]
    now[4] += ins[4]
    return before
  }
}

export const prior: Indicator = {
  name: 'prior',
  also: ['previous day', 'yesterday', 'session before'],
  opposite: { goes: 'price', outputs: [['high', 'low']] },
  unknown: 'there is no session before it',
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
  steps: (_params, slots) => {
    const before = sessionBefore(slots)
    return (ins, outs, keep) => {
      const old = before(ins, keep)
      outs[0] = old[3]
      outs[1] = old[0]
      outs[2] = old[1]
      outs[3] = old[2]
      outs[4] = old[4]
    }
  },
}

/** Levels about the middle of a session's range. */
function putPivots(high: number, low: number, close: number, put: (k: number, level: number) => void): void {
  const p = (high + low + close) / 3
  put(0, p)
  put(1, 2 * p - low)
  put(2, 2 * p - high)
  put(3, p + (high - low))
  put(4, p - (high - low))
  put(5, high + 2 * (p - low))
  put(6, low - 2 * (high - p))
}

export const pivots: Indicator = {
  name: 'pivots',
  also: ['pivot points', 'floor pivots', 'support', 'resistance'],
  opposite: {
    goes: 'price',
    outputs: [
      ['r1', 's1'],
      ['r2', 's2'],
      ['r3', 's3'],
    ],
  },
  unknown: 'there is no session before it',
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
      putPivots(high, low, close, (k, level) => {
        for (let i = row; i < session.length && session[i] === session[row]; i++) outs[k][i] = level
      })
    })
  },
  steps: (_params, slots) => {
    const before = sessionBefore(slots)
    return (ins, outs, keep) => {
      const old = before(ins, keep)
      putPivots(old[1], old[2], old[3], (k, level) => (outs[k] = level))
    }
  },
}

/** A state of the whole session from its first open and the range of the session before. */
const gapState = (
  name: 'gap up' | 'gap down',
  doc: string,
  holds: (open: number, before: ArrayLike<number>) => boolean,
): Indicator => ({
  name,
  also: [],
  opposite: { goes: 'price', name: name === 'gap up' ? 'gap down' : 'gap up' },
  unknown: 'there is no session before it',
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
  steps: (_params, slots) => {
    const [before, day, answer] = [sessionBefore(slots), slots.cell(NaN), slots.cell(NaN)]
    return (ins, outs, keep) => {
      const old = before(ins, keep)
      const known = ins[0] === ins[0] && old[1] === old[1] && old[2] === old[2]
      outs[0] = ins[5] === day[0] ? answer[0] : known ? Number(holds(ins[0], old)) : NaN
      if (!keep) return
      day[0] = ins[5]
      answer[0] = outs[0]
    }
  },
})

export const gapUp = gapState(
  'gap up',
  'The session opened above the highest price of the one before; lasts all session.',
  (open, before) => open > before[1],
)

export const gapDown = gapState(
  'gap down',
  'The session opened below the lowest price of the one before; lasts all session.',
  (open, before) => open < before[2],
)

export const gap: Indicator = {
  name: 'gap',
  also: ['gap percent', 'overnight'],
  opposite: ABOUT_NOUGHT,
  unknown: 'there is no session before it',
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
  steps: (_params, slots) => {
    const [now, last, day] = [slots.cell(NaN), slots.cell(NaN), slots.cell(NaN)]
    return (ins, outs, keep) => {
      const open = ins[0]
      const close = ins[1]
      const session = ins[2]
      const begins = day[0] === day[0] && session !== day[0]
      outs[0] = begins ? (last[0] > 0 ? 100 * (open / last[0] - 1) : NaN) : now[0]
      if (!keep) return
      now[0] = outs[0]
      last[0] = close
      day[0] = session
    }
  },
}
