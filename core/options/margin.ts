import { CONTRACT_MULTIPLIER } from './osi'

/** Contracts of one kind that are held, or would be; money in whole ten-thousandths. */
export interface OptionHolding {
  putOrCall: 'Put' | 'Call'
  strikeE4: number
  maturityDate: string
  /** Negative when short. */
  quantity: number
  /** Of one share's worth of it, now. */
  valueE4: number
}

/** What holds cover and cash for options of one underlying. */
export interface Cover {
  /** Shares of the underlying that are held; negative when short. */
  shares: number
  underlyingE4: number
  /** Whether short puts that nothing covers hold their whole strike in cash, as accounts below level 4 do. */
  cashSecured: boolean
}

export interface OptionMargin {
  /** Cash that short contracts hold, above what long ones have cost already; in e4. */
  heldE4: number
  /** The level that an account needs for it: 1 covered and cash-secured, 2 bought, 3 spreads, 4 uncovered. */
  level: 0 | 1 | 2 | 3 | 4
}

interface Open {
  strikeE4: number
  maturityDate: string
  valueE4: number
  left: number
}

interface Side {
  /** What spreads and cash-secured puts hold. */
  limitedE4: number
  /** What uncovered ones hold beside their value. */
  uncoveredE4: number
  valueE4: number
  /** Of short contracts: the lowest strike of calls, the highest of puts. */
  nearestE4: number | undefined
}

/**
 * Margin of the options of one underlying. Long contracts are paid in full and hold nothing more. A short one is covered by
 * shares, else by a long one of its kind that lasts as long: then the difference of the strikes is held, where it is against
 * the holder. An uncovered one holds its value and 20 % of the underlying less what it is out of the money, at least 10 % (of
 * the strike for a put). Of calls and puts of one maturity only the dearer side is held and the value of the other, since both cannot lose
 * at once, unless puts are written above calls. Source: FINRA rule 4210(f)(2), Regulation T (from memory).
 */
export function optionMargin(held: readonly OptionHolding[], cover: Cover): OptionMargin {
  let level: OptionMargin['level'] = held.some((one) => one.quantity > 0) ? 2 : 0
  const needs = (at: OptionMargin['level']) => {
    if (at > level) level = at
  }
  const sides = new Map<string, { Call: Side; Put: Side }>()
  for (const putOrCall of ['Call', 'Put'] as const) {
    const call = putOrCall === 'Call'
    const ofKind = held.filter((one) => one.putOrCall === putOrCall)
    const longs = opened(ofKind, 1)
    let covering = Math.floor(Math.max(0, call ? cover.shares : -cover.shares) / CONTRACT_MULTIPLIER)
    // The dearest first, so that what covers most is used where it matters.
    const shorts = opened(ofKind, -1).sort((a, b) => (call ? 1 : -1) * (a.strikeE4 - b.strikeE4))
    for (const short of shorts) {
      const side = sideOf(sides, short.maturityDate)[putOrCall]
      const { nearestE4 = short.strikeE4 } = side
      side.nearestE4 = call ? Math.min(nearestE4, short.strikeE4) : Math.max(nearestE4, short.strikeE4)
      short.left -= pair(short, longs, call, 0, side, needs)
      const byShares = Math.min(short.left, covering)
      if (byShares > 0) needs(call ? 1 : 4)
      covering -= byShares
      short.left -= byShares
      short.left -= pair(short, longs, call, Infinity, side, needs)
      if (short.left === 0) continue
      const shares = short.left * CONTRACT_MULTIPLIER
      if (!call && cover.cashSecured) {
        needs(1)
        side.limitedE4 += shares * short.strikeE4
        continue
      }
      needs(4)
      side.valueE4 += shares * short.valueE4
      side.uncoveredE4 += shares * uncoveredE4(call, short.strikeE4, cover.underlyingE4)
    }
  }
  let heldE4 = 0
  for (const { Call, Put } of sides.values()) {
    const [calls, puts] = [Call.limitedE4 + Call.uncoveredE4, Put.limitedE4 + Put.uncoveredE4]
    // Puts that are written above calls lose with them where the price lies between.
    const both = (Put.nearestE4 ?? 0) > (Call.nearestE4 ?? Infinity)
    heldE4 += (both ? calls + puts : Math.max(calls, puts)) + Call.valueE4 + Put.valueE4
  }
  return { heldE4: Math.ceil(heldE4), level }
}

/** What one share's worth of an uncovered option holds beside its value, in e4. */
function uncoveredE4(call: boolean, strikeE4: number, underlyingE4: number): number {
  const outOfMoney = Math.max(0, call ? strikeE4 - underlyingE4 : underlyingE4 - strikeE4)
  return Math.max(0.2 * underlyingE4 - outOfMoney, 0.1 * (call ? underlyingE4 : strikeE4))
}

function opened(held: readonly OptionHolding[], sign: 1 | -1): Open[] {
  return held
    .filter(({ quantity }) => sign * quantity > 0)
    .map(({ strikeE4, maturityDate, valueE4, quantity }) => ({
      ...{ strikeE4, maturityDate, valueE4 },
      left: Math.abs(quantity),
    }))
}

function sideOf(sides: Map<string, { Call: Side; Put: Side }>, maturityDate: string) {
  let side = sides.get(maturityDate)
  const none = (): Side => ({ limitedE4: 0, uncoveredE4: 0, valueE4: 0, nearestE4: undefined })
  if (!side) sides.set(maturityDate, (side = { Call: none(), Put: none() }))
  return side
}

/** Covers a short contract with long ones whose strikes lie no further against it than `most`. Gives how many it covered. */
function pair(
  short: Open,
  longs: readonly Open[],
  call: boolean,
  most: number,
  side: Side,
  needs: (level: 3) => void,
): number {
  const against = (long: Open) => (call ? long.strikeE4 - short.strikeE4 : short.strikeE4 - long.strikeE4)
  // Of those that lose nothing the one that is nearest, which leaves the better ones; else what loses least.
  const order = (long: Open) => (against(long) <= 0 ? -against(long) : against(long))
  const fit = longs
    .filter((long) => long.maturityDate >= short.maturityDate && against(long) <= most)
    .sort((a, b) => order(a) - order(b))
  let covered = 0
  for (const long of fit) {
    const part = Math.min(short.left - covered, long.left)
    if (part <= 0) continue
    needs(3)
    long.left -= part
    covered += part
    side.limitedE4 += part * CONTRACT_MULTIPLIER * Math.max(0, against(long))
  }
  return covered
}
