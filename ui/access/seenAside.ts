/** Names of set-aside worlds whose reasons were read, kept in this browser: each is pointed out once. */
const KEY = 'heron.seen-set-aside'

export function seenAside(): ReadonlySet<string> {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEY) ?? '[]')
    return new Set(Array.isArray(kept) ? kept.map(String) : [])
  } catch {
    // A browser that keeps nothing points it out each time.
    return new Set()
  }
}

export function noteSeen(names: readonly string[]): void {
  const all = [...new Set([...seenAside(), ...names.filter(Boolean)])]
  try {
    localStorage.setItem(KEY, JSON.stringify(all))
  } catch {
    // Nothing is lost: it is pointed out again.
  }
}
