/** Repeatable chance: the same words give the same stream, on every machine. */

/** FNV-1a over the words, mixed; a 32-bit seed. Source: Fowler, Noll, Vo. */
export function seedOf(...words: (string | number)[]): number {
  let hash = 0x811c9dc5
  const text = words.join('\u0001')
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193)
  hash = Math.imul(hash ^ (hash >>> 16), 0x85ebca6b)
  return (hash ^ (hash >>> 13)) >>> 0
}

export interface Chance {
  /** 0 up to, not including, 1. */
  uniform(): number
  /** Standard normal. */
  normal(): number
  /** A whole number below n. */
  below(n: number): number
}

/** A stream of chance from a seed (Mulberry32; normals by Box and Muller, 1958). */
export function chance(seed: number): Chance {
  let state = seed >>> 0
  let spare = NaN
  const uniform = () => {
    state = (state + 0x6d2b79f5) >>> 0
    let t = Math.imul(state ^ (state >>> 15), state | 1)
    t = (t + Math.imul(t ^ (t >>> 7), t | 61)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
  const normal = () => {
    if (spare === spare) {
      const kept = spare
      spare = NaN
      return kept
    }
    const radius = Math.sqrt(-2 * Math.log(1 - uniform()))
    const angle = 2 * Math.PI * uniform()
    spare = radius * Math.sin(angle)
    return radius * Math.cos(angle)
  }
  return { uniform, normal, below: (n) => Math.floor(uniform() * n) }
}
