import { decimal } from '../market/money'
import { type Followed } from './followed'

/** Below so many cases that stand on their own, the figures are said to prove little. */
const ENOUGH = 20

/** Below so many there is no interval. */
const LEAST = 5

const FEWEST = 2
const MOST = 4

/** The number that is read off the page: what the formatter rounds to, which is not always what toFixed does. */
const printed = (x: number, digits: number): number =>
  Number(decimal(x, digits).replace('−', '-').replaceAll(',', ''))

/** A percentage as the sentence and the tables print it: "+0.31 %", "−0.07 %", "0.00 %". */
export function signed(x: number, digits: number): string {
  if (Number.isNaN(x)) return 'unknown'
  const text = decimal(Math.abs(x), digits)
  return `${printed(x, digits) === 0 ? '' : x < 0 ? '−' : '+'}${text} %`
}

/**
 * Digits after the point that the figures need, so that those which differ are printed as different: 2 to 4.
 */
export function digitsOf({ low, high, others }: Pick<Followed, 'low' | 'high' | 'others'>): number {
  const pairs = [
    [low, high],
    [low, others.median],
    [high, others.median],
  ].filter(([a, b]) => a !== b && !Number.isNaN(a) && !Number.isNaN(b))
  for (let digits = FEWEST; digits < MOST; digits++)
    if (pairs.every(([a, b]) => printed(a, digits) !== printed(b, digits))) return digits
  return MOST
}

/** How the middle of all other bars lies to the interval of the hits, by the figures as they are printed. */
export type Lie = 'no interval' | 'no width' | 'below' | 'above' | 'within'

export function lieOf(f: Pick<Followed, 'low' | 'high' | 'others' | 'independent'>): Lie {
  if (f.independent < LEAST || Number.isNaN(f.low) || Number.isNaN(f.others.median)) return 'no interval'
  const digits = digitsOf(f)
  const [low, high, other] = [f.low, f.high, f.others.median].map((x) => printed(x, digits))
  if (low === high) return 'no width'
  return other < low ? 'below' : other > high ? 'above' : 'within'
}

/** Name of the interval, the same wherever it stands. */
export const INTERVAL = '95 of 100 draws between'

const LIES: Record<Exclude<Lie, 'no interval'>, string> = {
  'no width': 'an interval without width tells nothing about chance',
  below: 'the other bars lie below, so the difference is more than chance',
  above: 'the other bars lie above, so the difference is more than chance',
  within: 'the other bars lie within, so the difference may be chance',
}

/** What the figures say, and how far they can be trusted; made of the figures as they are printed. */
export function sayFollowed(times: number, f: Followed): string {
  if (f.cases === 0)
    return `It came true ${times === 1 ? 'once' : `${times} times`}, but what follows has not come yet.`
  const digits = digitsOf(f)
  const percent = (x: number) => signed(x, digits)
  const bars = f.ahead === 1 ? 'One bar' : `${f.ahead} bars`
  const hits = f.cases === 1 ? 'the one hit' : `the middle of ${f.cases.toLocaleString('en-US')} hits`
  const base = `${bars} later ${hits} stood at ${percent(f.median)}${f.others.total > 0 ? `, that of all other bars at ${percent(f.others.median)}` : ''}.`
  const lie = lieOf(f)
  if (lie === 'no interval')
    return `${base} Only ${f.independent} of them ${f.independent === 1 ? 'stands' : 'stand'} on ${f.independent === 1 ? 'its' : 'their'} own: that proves nothing.`
  const few =
    f.independent < ENOUGH
      ? ` With ${f.independent} cases that stand on their own, that is little to go by.`
      : ''
  return `${base} Drawn anew from its cases, the middle of the hits lies in ${INTERVAL} ${percent(f.low)} and ${percent(f.high)}: ${LIES[lie]}.${few}`
}
