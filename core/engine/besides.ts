import { type Side } from '../plans/document'
import { everyOf, textsOf, checkText } from '../plans/texts'
import { readsOf } from '../rules'
import { MATE } from '../rules/exec/mate'
import { type Listed } from './listed'

/** Other securities whose bars the rule text of a side reads, as it names them; "index" is that of the venue. */
export function besidesNamed(side: Side): string[] {
  const every = everyOf(side)
  const trees = textsOf(side).flatMap((one) => checkText(one, every).tree ?? [])
  return [...readsOf(trees, every).symbols]
}

/** The other of a pair that a security is the first of. */
export const mateIn = ({ among }: Side, symbol: string): string | undefined =>
  'pairs' in among ? among.pairs.find(([first]) => first === symbol)?.[1] : undefined

/** What rule text is told of the securities beside one: of its zone all of them, and in which currency each is. */
export function besideAbout(
  besides: ReadonlyMap<string, string>,
  listed: Readonly<Record<string, Listed>>,
  zone: string,
): (name: string) => { zone: string; currency?: string } {
  const currencyOf = new Map([...besides].map(([other, name]) => [name, listed[other].security.currency]))
  return (name) => ({ zone, currency: currencyOf.get(name) })
}

/**
 * Securities whose bars are read beside those of one, by symbol, and the name under which rule text reads them. Throws
 * RangeError for one that is not listed, or is of another zone: days there are others.
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
    if (there.venue.zone !== venue.zone)
      throw new RangeError(
        `${other} is traded in another time zone than ${symbol}; rule text can ask about securities of one zone.`,
      )
    out.set(other, name)
  }
  const mate = mateIn(side, symbol)
  if (mate !== undefined) out.set(mate, MATE)
  return out
}
