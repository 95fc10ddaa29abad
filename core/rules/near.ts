/** Number of single-letter changes between two words (Levenshtein, 1965). */
function distance(a: string, b: string): number {
  let row = Array.from({ length: b.length + 1 }, (_, i) => i)
  for (let i = 1; i <= a.length; i++) {
    const next = [i]
    for (let j = 1; j <= b.length; j++) {
      next[j] = Math.min(next[j - 1] + 1, row[j] + 1, row[j - 1] + (a[i - 1] === b[j - 1] ? 0 : 1))
    }
    row = next
  }
  return row[b.length]
}

/** First letters of a name of several words: "eps" of "earnings per share". */
const initials = (name: string): string =>
  name.includes(' ')
    ? name
        .split(' ')
        .map((word) => word[0])
        .join('')
    : ''

/** Up to three known words that a mistyped or abbreviated one may have meant, best first. */
export function nearest(word: string, known: readonly string[]): string[] {
  const typed = word.toLowerCase().slice(0, 40)
  return known
    .map((name) => {
      const begun = name.startsWith(typed) && typed.length > 1
      return { name, far: begun || initials(name) === typed ? 1 : distance(typed, name) }
    })
    .filter(({ name, far }) => far <= Math.max(1, Math.floor(name.length / 3)))
    .sort((x, y) => x.far - y.far)
    .slice(0, 3)
    .map(({ name }) => name)
}
