import { HOLDS } from '../rules'
import { lookAt } from './look'
import { putOff } from './nextSession'
import { type Stepping } from './want'

/** Conditions that hold already count as beginning now; what began since it follows the market has been looked at. */
export function actNow(stepping: Stepping, since: number): void {
  const { prepared, shared } = stepping
  prepared.sides.forEach(({ members }, i) => {
    for (const [symbol, follower] of members) {
      const { watched } = follower
      if (watched?.verdict !== HOLDS || (watched.began && watched.began.end > since)) continue
      const { lastEnd } = watched
      watched.began = { time: lastEnd, end: lastEnd, price: shared.quotes[symbol]?.last ?? NaN, bars: 0 }
      if (putOff(stepping, follower, true)) continue
      lookAt(stepping, { side: i, symbol, watched, begins: true, full: true })
    }
  })
}

/** What began with the last bar of a session since a moment is put off again: it was, when the run before this one ended. */
export function goOn({ prepared }: Stepping, since: number): void {
  for (const { nextSession, members } of prepared.sides)
    if (nextSession)
      for (const { watched } of members.values()) {
        const { began, lastEnd = NaN } = watched ?? {}
        if (began && began.end === lastEnd && lastEnd > since) watched!.puts = 'began'
      }
}
