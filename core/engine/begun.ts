import { HOLDS } from '../rules'
import { lookAt } from './look'
import { putOff } from './nextSession'
import { tried } from './tried'
import { type Stepping } from './want'

/**
 * Conditions that hold already count as beginning now, also with the bar that grows where that counts; what began since it follows
 * the market has been looked at. `only`: of these securities, or of one side.
 */
export function actNow(
  stepping: Stepping,
  since: number,
  only: { side?: number; symbols?: readonly string[] } = {},
): void {
  const { prepared, shared, at } = stepping
  prepared.sides.forEach(({ members, side, ticks }, i) => {
    if (only.side !== undefined && only.side !== i) return
    for (const [symbol, follower] of members) {
      if (only.symbols && !only.symbols.includes(symbol)) continue
      const { watched } = follower
      if (!watched || watched.lastEnd === -Infinity || (watched.began && watched.began.end > since)) continue
      const growing = ticks && side.if.bars === 'SoFar' ? tried(stepping, follower) : undefined
      if (growing) watched.verdict = follower.memory.value(0)
      if (watched.verdict !== HOLDS) continue
      const { lastEnd } = watched
      const [time, end] = growing ? [growing.time, Infinity] : [lastEnd, lastEnd]
      watched.began = { time, end, price: shared.quotes[symbol]?.last ?? NaN, bars: 0 }
      watched.lookedAt = at
      if (putOff(stepping, follower, true)) continue
      lookAt(stepping, { side: i, symbol, watched, begins: true, full: true })
    }
  })
}

/**
 * What began since a moment at which the plan was armed, and nobody has followed here: in another life of it, or of those that a
 * search finds newly. What was put off to the next session is put off again, and a signal that lasts stands; of those that are found
 * newly none does. What has led to an order is known by its id, and leads to no other.
 */
export function goOn({ prepared }: Stepping, since: number, symbols?: readonly string[]): void {
  for (const { nextSession, side, members } of prepared.sides)
    for (const [symbol, { watched }] of members) {
      if (symbols && !symbols.includes(symbol)) continue
      const { began, lastEnd } = watched ?? {}
      if (!began || !(began.end > since)) continue
      if (nextSession && began.end === lastEnd) watched!.puts = 'began'
      if (side.if.lasts && !symbols) watched!.stands = true
    }
}
