import { type Indicator } from './types'

/** Minute of the day at which the opening is over: so many minutes after the first, or a time of day after it. */
const endOfOpening = (start: number, minutes: number): number =>
  minutes > 0 ? start + minutes : -minutes > start ? -minutes : NaN

export const opening: Indicator = {
  name: 'opening',
  also: ['opening range', 'orb', 'first minutes'],
  opposite: { goes: 'price', outputs: [['high', 'low']] },
  unknown: 'its minutes are not over, or the bars about its end are missing',
  input: ['open', 'high', 'low', 'session', 'began', 'clock'],
  parameters: [{ name: 'length', preset: 25, min: 1, max: 1440, whole: true, minutes: true }],
  outputs: [
    { name: 'high', unit: 'price' },
    { name: 'low', unit: 'price' },
    { name: 'middle', unit: 'price' },
    { name: 'open', unit: 'price' },
  ],
  // Sessions begin at a quarter of an hour: a time of day lies so many minutes from it.
  grain: ([minutes]) => (minutes > 0 ? minutes : minutes % 15 === 0 ? 15 : minutes % 5 === 0 ? 5 : 1),
  warmUp: () => 1,
  doc: 'Range of the first minutes of the session, or until a time of day, known once they are over: opening(25 min).high, opening(10:15).low. The same on all bars: where these do not end with the range, it is taken from finer ones.',
  source: 'Common practice: range of the first minutes of a session',
  column: ([open, high, low, session, began, clock], [minutes], [top, bottom, middle, first]) => {
    let [a, b, end, from] = [NaN, NaN, NaN, NaN]
    let done = false
    for (let i = 0; i < open.length; i++) {
      if (i === 0 || session[i] !== session[i - 1]) {
        ;[a, b, end, from] = [high[i], low[i], endOfOpening(began[i], minutes), open[i]]
        done = false
      }
      if (began[i] < end) {
        if (!(high[i] <= a)) a = high[i]
        if (!(low[i] >= b)) b = low[i]
        // A bar that reaches past the end of the range hides where in it the price was by then.
        if (clock[i] > end) a = b = from = NaN
      }
      done ||= clock[i] >= end
      top[i] = done ? a : NaN
      bottom[i] = done ? b : NaN
      middle[i] = (top[i] + bottom[i]) / 2
      first[i] = done ? from : NaN
    }
  },
  steps: ([minutes], slots) => {
    const [day, end, over] = [slots.cell(NaN), slots.cell(NaN), slots.cell()]
    const range = slots.take(3, NaN)
    return (ins, outs, keep) => {
      const open = ins[0]
      const high = ins[1]
      const low = ins[2]
      const session = ins[3]
      const began = ins[4]
      const clock = ins[5]
      const begins = session !== day[0]
      let a = begins ? high : range[0]
      let b = begins ? low : range[1]
      let from = begins ? open : range[2]
      const until = begins ? endOfOpening(began, minutes) : end[0]
      if (began < until) {
        if (!(high <= a)) a = high
        if (!(low >= b)) b = low
        if (clock > until) a = b = from = NaN
      }
      const done = (!begins && over[0] === 1) || clock >= until
      outs[0] = done ? a : NaN
      outs[1] = done ? b : NaN
      outs[2] = (outs[0] + outs[1]) / 2
      outs[3] = done ? from : NaN
      if (!keep) return
      day[0] = session
      end[0] = until
      over[0] = Number(done)
      range[0] = a
      range[1] = b
      range[2] = from
    }
  },
}
