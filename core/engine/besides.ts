import { type Bars } from '../market/bars'
import { type Plan, type Side } from '../plans/document'
import { unreadableText } from '../plans/carriedBars'
import { checkText, readingsOf } from '../plans/texts'
import { readsOf } from '../rules'
import { MATE } from '../rules/exec/mate'
import { askedOfBroker } from './brought'
import { type Listed } from './listed'

/**
 * Other securities whose bars the broker is asked for, as the rule text of a side names them; "index" is that of the venue. Those
 * whose bars the plan carries are none of them.
 */
export function besidesNamed(plan: Pick<Plan, 'bars'>, side: Side): string[] {
  const named = readingsOf(side).flatMap(({ every, texts }) => {
    const trees = texts.flatMap((one) => checkText(one, every).tree ?? [])
    return readsOf(trees, every).symbols
  })
  return askedOfBroker(plan, [...new Set(named)])
}

/** The other of a pair that a security is the first of. */
export const mateIn = ({ among }: Side, symbol: string): string | undefined =>
  'pairs' in among ? among.pairs.find(([first]) => first === symbol)?.[1] : undefined

/**
 * What rule text is told of the securities beside one: in which zone and currency each is, of bars that the plan carries in which
 * zone alone; undefined of a name that is none of them.
 */
export function besideAbout(
  besides: ReadonlyMap<string, string>,
  listed: Readonly<Record<string, Listed>>,
  brought: ReadonlyMap<string, Bars>,
): (name: string) => { zone: string; currency?: string } | undefined {
  const known = new Map<string, { zone: string; currency?: string }>(
    [...besides].map(([other, name]) => {
      const { venue, security } = listed[other]
      return [name, { zone: venue.zone, currency: security.currency }]
    }),
  )
  for (const [name, { zone }] of brought) known.set(name, { zone })
  return (name) => known.get(name)
}

/** Names under which bars are read that end together with those of a security: of its own venue. */
export const togetherWith = (
  besides: ReadonlyMap<string, string>,
  symbol: string,
  listed: Readonly<Record<string, Listed>>,
): string[] =>
  [...besides].flatMap(([other, name]) => (listed[other].venue === listed[symbol].venue ? [name] : []))

/**
 * Securities whose bars are read beside those of one, by symbol, and the name under which rule text reads them. Throws
 * RangeError for one that is not listed.
 */
export function besidesOf(
  side: Side,
  named: readonly string[],
  symbol: string,
  listed: Readonly<Record<string, Listed>>,
): Map<string, string> {
  const out = new Map<string, string>()
  const { venue, index } = listed[symbol]
  for (const name of named) {
    const other = name === 'index' ? index : name
    const there = other === undefined ? undefined : listed[other]
    if (other === undefined || !there)
      throw new RangeError(
        other === undefined
          ? `The broker lists no index of ${venue.name}, which its rule text asks about.`
          : unreadableText(other),
      )
    out.set(other, name)
  }
  const mate = mateIn(side, symbol)
  if (mate !== undefined) out.set(mate, MATE)
  return out
}
