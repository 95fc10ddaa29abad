import { isMore, moved } from '../../market/paper'
import { placeBetween } from '../oscillators'
import { headway } from '../trend'
import { type Indicator } from '../types'
import { type Maker, type Stepper } from './maker'
import * as p from './primitives'
import { TURNING } from './turning'

export { type Stepper }

/** One value in, one out. */
const one =
  (make: (params: readonly number[]) => p.Step): Maker =>
  (params) => {
    const step = make(params)
    return (ins, outs, keep) => {
      outs[0] = step(ins[0], keep)
    }
  }

/** Wilder's strength: gains and losses smoothed side by side. */
function strength(n: number): p.Step {
  let [changes, up, down, last] = [0, 0, 0, NaN]
  return (x, keep) => {
    const change = moved(x, last)
    if (change !== change) {
      if (keep) {
        changes = up = down = 0
        last = x
      }
      return NaN
    }
    const [gain, loss] = [change > 0 ? change : 0, change < 0 ? -change : 0]
    const seen = changes + 1
    const nowUp = seen <= n ? up + gain / n : up + (gain - up) / n
    const nowDown = seen <= n ? down + loss / n : down + (loss - down) / n
    if (keep) {
      last = x
      changes = seen
      up = nowUp
      down = nowDown
    }
    if (seen < n) return NaN
    return nowUp + nowDown === 0 ? 50 : (100 * nowUp) / (nowUp + nowDown)
  }
}

/** Place in the range of the last bars, and its two averages. */
function place(n: number, k: number, d: number) {
  const [top, bottom] = [p.extreme(n, 1), p.extreme(n, -1)]
  const [slow, signal] = [p.mean(k), p.mean(d)]
  return (high: number, low: number, close: number, outs: Float64Array, keep: boolean) => {
    const [upper, lower] = [top(high, keep), bottom(low, keep)]
    outs[2] = placeBetween(close, lower, upper)
    outs[0] = slow(outs[2], keep)
    outs[1] = signal(outs[0], keep)
  }
}

const compared =
  (distance: (fast: number, slow: number) => number): Maker =>
  ([fast, slow, signal]) => {
    const [quick, calm, smoothed] = [p.exponential(fast), p.exponential(slow), p.exponential(signal)]
    return (ins, outs, keep) => {
      outs[0] = distance(quick(ins[0], keep), calm(ins[0], keep))
      outs[1] = smoothed(outs[0], keep)
      outs[2] = outs[0] - outs[1]
    }
  }

const adx: Maker = ([n]) => {
  const [reach, smoothRange] = [p.range(), p.smooth(n, 1 / n)]
  const [plus, minus, value] = [p.smooth(n, 1 / n), p.smooth(n, 1 / n), p.smooth(n, 1 / n)]
  let [beforeHigh, beforeLow, first] = [NaN, NaN, true]
  return (ins, outs, keep) => {
    const [high, low] = [ins[0], ins[1]]
    const now = reach(high, low, ins[2], keep)
    const ranged = smoothRange(first ? NaN : now, keep)
    const [up, down] = [high - beforeHigh, beforeLow - low]
    const side = (step: p.Step, ahead: number, other: number) => {
      const moved = step(first ? NaN : headway(ahead, other, high), keep)
      return ranged > 0 ? (100 * moved) / ranged : 0 * (moved + ranged)
    }
    outs[1] = side(plus, up, down)
    outs[2] = side(minus, down, up)
    const both = outs[1] + outs[2]
    outs[0] = value(both > 0 ? (100 * Math.abs(outs[1] - outs[2])) / both : 0 * both, keep)
    if (keep) {
      beforeHigh = high
      beforeLow = low
      first = false
    }
  }
}

/** What is added up over all bars; `add` gives what a bar brings, NaN where it brings nothing. */
const running =
  (add: (ins: ArrayLike<number>, before: number) => number, price: number): Maker =>
  () => {
    let [total, before] = [0, NaN]
    return (ins, outs, keep) => {
      const brought = add(ins, before)
      outs[0] = brought === brought ? total + brought : NaN
      if (keep && brought === brought) {
        total += brought
        before = ins[price]
      }
    }
  }

/** Each indicator whose past cannot be held in a window, and those that are asked for most. */
const MAKERS: Record<string, Maker> = {
  ...TURNING,
  sma: one(([n]) => p.mean(n)),
  ema: one(([n]) => p.exponential(n)),
  wma: one(([n]) => p.weighted(n)),
  wilder: one(([n]) => p.smooth(n, 1 / n)),
  highest: one(([n]) => p.extreme(n, 1)),
  lowest: one(([n]) => p.extreme(n, -1)),
  rsi: one(([n]) => strength(n)),
  momentum: one(([n]) => {
    const old = p.earlier(n)
    return (x, keep) => x - old(x, keep)
  }),
  roc: one(([n]) => {
    const old = p.earlier(n)
    return (x, keep) => {
      const before = old(x, keep)
      return before > 0 ? 100 * (x / before - 1) : NaN
    }
  }),
  hull: one(([n]) => {
    const [half, whole, last] = [
      p.weighted(Math.floor(n / 2)),
      p.weighted(n),
      p.weighted(Math.floor(Math.sqrt(n))),
    ]
    return (x, keep) => last(2 * half(x, keep) - whole(x, keep), keep)
  }),
  dema: one(([n]) => {
    const [once, twice] = [p.exponential(n), p.exponential(n)]
    return (x, keep) => {
      const a = once(x, keep)
      return 2 * a - twice(a, keep)
    }
  }),
  tema: one(([n]) => {
    const [once, twice, thrice] = [p.exponential(n), p.exponential(n), p.exponential(n)]
    return (x, keep) => {
      const a = once(x, keep)
      const b = twice(a, keep)
      return 3 * a - 3 * b + thrice(b, keep)
    }
  }),
  deviation: one(([n]) => p.deviation(n).step),
  zscore: one(([n]) => {
    const { step, at } = p.deviation(n)
    return (x, keep) => {
      const spread = step(x, keep)
      return isMore(spread, at.mean) ? (x - at.mean) / spread : NaN
    }
  }),
  bollinger: ([n, wide]) => {
    const { step, at } = p.deviation(n)
    return (ins, outs, keep) => {
      const width = wide * step(ins[0], keep)
      outs[0] = at.mean
      outs[1] = at.mean + width
      outs[2] = at.mean - width
    }
  },
  keltner: ([n, ranges, m]) => {
    const [middle, reach, average] = [p.exponential(n), p.range(), p.smooth(m, 1 / m)]
    return (ins, outs, keep) => {
      const width = ranges * average(reach(ins[0], ins[1], ins[2], keep), keep)
      outs[0] = middle(ins[2], keep)
      outs[1] = outs[0] + width
      outs[2] = outs[0] - width
    }
  },
  donchian: ([n]) => {
    const [top, bottom] = [p.extreme(n, 1), p.extreme(n, -1)]
    return (ins, outs, keep) => {
      outs[1] = top(ins[0], keep)
      outs[2] = bottom(ins[1], keep)
      outs[0] = (outs[1] + outs[2]) / 2
    }
  },
  truerange: () => {
    const reach = p.range()
    return (ins, outs, keep) => {
      outs[0] = reach(ins[0], ins[1], ins[2], keep)
    }
  },
  atr: ([n]) => {
    const [reach, average] = [p.range(), p.smooth(n, 1 / n)]
    return (ins, outs, keep) => {
      outs[0] = average(reach(ins[0], ins[1], ins[2], keep), keep)
    }
  },
  adx,
  macd: compared((fast, slow) => fast - slow),
  ppo: compared((fast, slow) => (slow > 0 ? (100 * (fast - slow)) / slow : NaN)),
  stochastic: ([n, k, d]) => {
    const at = place(n, k, d)
    return (ins, outs, keep) => at(ins[0], ins[1], ins[2], outs, keep)
  },
  stochrsi: ([m, n, k, d]) => {
    const [of, at] = [strength(m), place(n, k, d)]
    return (ins, outs, keep) => {
      const x = of(ins[0], keep)
      at(x, x, x, outs, keep)
    }
  },
  williams: ([n]) => {
    const [top, bottom] = [p.extreme(n, 1), p.extreme(n, -1)]
    return (ins, outs, keep) => {
      const upper = top(ins[0], keep)
      outs[0] = placeBetween(ins[2], bottom(ins[1], keep), upper) - 100
    }
  },
  obv: running((ins, before) => {
    const [price, size] = [ins[0], ins[1]]
    if (price !== price || size !== size) return NaN
    return price > before ? size : price < before ? -size : 0
  }, 0),
  accumulation: running((ins) => {
    const [high, low, close, volume] = [ins[0], ins[1], ins[2], ins[3]]
    const reach = high - low
    return reach > 0 ? (volume * (2 * close - high - low)) / reach : 0 * (reach + close + volume)
  }, 2),
  'new high': ([n]) => {
    const top = p.extreme(n, 1)
    return (ins, outs, keep) => {
      const x = top(ins[0], keep)
      outs[0] = x === x ? Number(ins[0] === x) : NaN
    }
  },
  'new low': ([n]) => {
    const bottom = p.extreme(n, -1)
    return (ins, outs, keep) => {
      const x = bottom(ins[0], keep)
      outs[0] = x === x ? Number(ins[0] === x) : NaN
    }
  },
}

/** Indicators whose value hangs on everything since the session before. */
const SESSIONS = new Set(['vwap', 'prior', 'pivots', 'gap', 'gap up', 'gap down', 'opening'])

/**
 * The incremental form of an indicator. Those without one of their own keep the rows that their value hangs on and
 * work them out again: as many as their window, or two sessions.
 */
export function stepperOf(indicator: Indicator, params: readonly number[]): Stepper {
  const make = MAKERS[indicator.name]
  if (make) return make(params)
  const { input } = indicator
  const width = input === 'series' ? 1 : input === 'two series' ? 2 : input.length
  const session = typeof input === 'string' ? -1 : input.indexOf('session')
  const window = SESSIONS.has(indicator.name) ? 0 : indicator.warmUp(params) + 1
  return remembering(indicator, params, width, session, window)
}

function remembering(
  indicator: Indicator,
  params: readonly number[],
  width: number,
  session: number,
  window: number,
): Stepper {
  let room = window > 0 ? 2 * window : 1024
  let columns = Array.from({ length: width }, () => new Float64Array(room))
  let made = indicator.outputs.map(() => new Float64Array(room))
  let n = 0
  /** First row that still counts. */
  const first = (): number => {
    if (window > 0) return Math.max(0, n - window)
    const of = columns[session]
    let changes = 0
    for (let i = n - 1; i > 0; i--) if (of[i] !== of[i - 1] && ++changes === 2) return i
    return 0
  }
  const makeRoom = () => {
    const from = first()
    if (from > 0) for (const column of columns) column.copyWithin(0, from, n)
    n -= from
    if (n < room - 1) return
    room *= 2
    columns = columns.map((column) => {
      const larger = new Float64Array(room)
      larger.set(column)
      return larger
    })
    made = made.map(() => new Float64Array(room))
  }
  return (ins, outs, keep) => {
    if (n + 1 >= room) makeRoom()
    for (let c = 0; c < width; c++) columns[c][n] = ins[c]
    n++
    const from = first()
    const rows = n - from
    indicator.column(
      columns.map((column) => column.subarray(from, n)),
      params,
      made.map((column) => column.subarray(0, rows)),
    )
    for (let o = 0; o < outs.length; o++) outs[o] = made[o][rows - 1]
    if (!keep) n--
  }
}
