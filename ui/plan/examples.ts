import atTheShelf from '@/plans/at-the-shelf.json'
import betweenTheShoals from '@/plans/between-the-shoals.json'
import eachMorning from '@/plans/each-morning.json'
import fastOverSlow from '@/plans/fast-over-slow.json'
import firstAnnouncement from '@/plans/first-announcement.json'
import firstQuarter from '@/plans/first-quarter.json'
import highEnd from '@/plans/high-end.json'
import lowEnd from '@/plans/low-end.json'
import lowOfTheBar from '@/plans/low-of-the-bar.json'
import lowSoFar from '@/plans/low-so-far.json'
import middleInTicks from '@/plans/middle-in-ticks.json'
import muchIsTraded from '@/plans/much-is-traded.json'
import outOfYesterday from '@/plans/out-of-yesterday.json'
import restingAtTheEdge from '@/plans/resting-at-the-edge.json'
import throughTheMiddle from '@/plans/through-the-middle.json'
import turningAverages from '@/plans/turning-averages.json'
import twiceAsManyBuyers from '@/plans/twice-as-many-buyers.json'
import twoOfAKind from '@/plans/two-of-a-kind.json'
import yesterdayAsTheStop from '@/plans/yesterday-as-the-stop.json'
import { Plan } from '@/core/plans/document'

/** The worked examples, by when in the day they act. */
export const EXAMPLES: readonly (readonly [string, readonly Plan[]])[] = (
  [
    ['At the open', [firstQuarter, restingAtTheEdge, outOfYesterday, yesterdayAsTheStop, eachMorning]],
    ['Through the day', [fastOverSlow, turningAverages, throughTheMiddle, middleInTicks, muchIsTraded]],
    ['Inside a bar', [lowSoFar, lowOfTheBar, twiceAsManyBuyers]],
    ['Left running', [twoOfAKind, betweenTheShoals, firstAnnouncement]],
    ['On a list, at a line', [lowEnd, highEnd, atTheShelf]],
  ] as const
).map(([heading, plans]) => [heading, plans.map((one) => Plan.parse(one))])
