import { type Bars } from '../market/bars'
import { resampledWhole } from '../market/resample'
import { parseTimeframe, roughMinutes, type Timeframe } from '../market/timeframe'
import { parse, readsOf } from '../rules'
import { barsBefore } from './barsBefore'
import { type Plan, type Side } from './document'
import { bound } from './inputs'
import { carriedBars, type OwnBars, OwnName, ownBarsText } from './ownBars'
import { readingsOf } from './texts'

/** Bars of one's own that are carried at least, so that past moments can be looked at too. */
const LEAST = 600

/** Rule text of a side by the bars that it is asked of: also that of a search, which is asked of bars of its own. */
function textsBy(side: Side): { every: Timeframe; texts: string[] }[] {
  const { among } = side
  const own = readingsOf(side).map(({ every, texts }) => ({ every, texts: texts.map(({ text }) => text) }))
  if (!('found' in among)) return own
  const { rule, by, every } = among.found
  return [...own, { every: parseTimeframe(every)!, texts: by === undefined ? [rule] : [rule, by] }]
}

/**
 * Names whose bars the rule text of a side reads beside those of a security, and the finest bars that it reads of each. The index
 * of a venue is none of them.
 */
export function readBeside(side: Side): Map<string, Timeframe> {
  const out = new Map<string, Timeframe>()
  for (const { every, texts } of textsBy(side)) {
    const { finestOf } = readsOf(
      texts.flatMap((text) => parse(text).tree ?? []),
      every,
    )
    for (const [name, finest] of finestOf) {
      const before = out.get(name)
      if (name !== 'index' && !(before && roughMinutes(before) <= roughMinutes(finest))) out.set(name, finest)
    }
  }
  return out
}

/** Names that a plan reads beside and whose bars nobody has: neither the broker, which lists what is told, nor the plan itself. */
export const unreadable = (
  { sides, bars = {} }: Pick<Plan, 'sides' | 'bars'>,
  lists: (name: string) => boolean,
) => [
  ...new Set(
    sides.flatMap((side) => [...readBeside(side).keys()]).filter((name) => !bars[name] && !lists(name)),
  ),
]

/**
 * A plan that carries bars of the trader's own of what it reads beside, as they stand now: so many of the newest as its rule text
 * needs. What came with its file holds where there is nothing of it in `own`, which has all bars that there are of a name.
 */
export function withBars(plan: Plan, own: ReadonlyMap<string, readonly Bars[]>): Plan {
  const { bars: before = {}, ...rest } = plan
  const carried: Record<string, OwnBars> = {}
  for (const side of bound(plan).sides)
    for (const [name, finest] of readBeside(side)) {
      if (!OwnName.safeParse(name).success) continue
      const best = bestOf(own.get(name) ?? [], finest)
      // Finer ones are carried as long as they are asked for: the same reach is fewer of them.
      const taken = best && carriedBars(resampledWhole(best, finest), LEAST + neededOf(side))
      const bars = taken ?? before[name]
      if (bars && !(carried[name] && carried[name].time.length >= bars.time.length)) carried[name] = bars
    }
  return Object.keys(carried).length > 0 ? { ...rest, bars: carried } : rest
}

const neededOf = (side: Side): number =>
  Math.max(...readingsOf(side).map(({ every }) => barsBefore(side, 1, every)))

/** Of several sets the one that is fine enough; of those the one that goes on for longest, and then the coarsest. */
function bestOf(sets: readonly Bars[], finest: Timeframe): Bars | undefined {
  const fits = ({ every }: Bars) => roughMinutes(every) <= roughMinutes(finest)
  return [...sets].sort(
    (a, b) =>
      Number(fits(b)) - Number(fits(a)) ||
      (b.end.at(-1) ?? 0) - (a.end.at(-1) ?? 0) ||
      roughMinutes(b.every) - roughMinutes(a.every),
  )[0]
}

/** What a plan carries of bars, for people: a sentence of each. */
export const carriedBarsText = ({ bars = {} }: Pick<Plan, 'bars'>): string[] =>
  Object.entries(bars).map(([name, own]) => `It reads ${name} from your own ${ownBarsText(own)}.`)

/** That nobody has bars which rule text reads, and the mend. */
export const unreadableText = (name: string): string =>
  `The broker lists no ${name}, which its rule text asks about, and the plan carries no bars of it: bring them under Data, or name another.`
