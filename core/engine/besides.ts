import { type Side } from '../plans/document'
import { checkText, readingsOf } from '../plans/texts'
import { readsOf } from '../rules'
import { MATE } from '../rules/exec/mate'
import { type Listed } from './listed'

/** Other securities whose bars the rule text of a side reads, as it names them; "index" is that of the venue. */
export function besidesNamed(side: Side): string[] {
  const named = readingsOf(side).flatMap(({ every, texts }) => {
    const trees = texts.flatMap((one) => checkText(one, every).tree ?? [])
    return readsOf(trees, every).symbols
  })
  return [...new Set(named)]
}

/** The other of a pair that a security is the first of. */
export const mateIn = ({ among }: Side, symbol: string): string | undefined =>
  'pairs' in among ? among.pairs.find(([first]) => first === symbol)?.[1] : undefined

/** What rule text is told of the securities beside one: in which zone and currency each is; undefined of a name that is none of them. */
export function besideAbout(
  besides: ReadonlyMap<string, string>,
  listed: Readonly<Record<string, Listed>>,
): (name: string) => { zone: string; currency: string } | undefined {
  const known = new Map(
    [...besides].map(([other, name]) => {
      const { venue, security } = listed[other]
      return [name, { zone: venue.zone, currency: security.currency }]
    }),
  )
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
        `The broker lists no ${other ?? `index of ${venue.name}`}, which its rule text asks about.`,
      )
    out.set(other, name)
  }
  const mate = mateIn(side, symbol)
  if (mate !== undefined) out.set(mate, MATE)
  return out
}
