/** Names of set-aside worlds that the trader has read about, kept in this browser: each is pointed out once. */
const KEY = 'heron.seen-set-aside'

export function seenAside(): ReadonlySet<string> {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEY) ?? '[]')
    return new Set(Array.isArray(kept) ? kept.map(String) : [])
  } catch {
    // Without storage each world is pointed out every time.
    return new Set()
  }
}

export function noteSeen(names: readonly string[]): void {
  const all = [...new Set([...seenAside(), ...names.filter(Boolean)])]
  try {
    localStorage.setItem(KEY, JSON.stringify(all))
  } catch {
    // Nothing is lost: the world is pointed out again.
  }
}
