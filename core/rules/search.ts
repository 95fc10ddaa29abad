import { ENTRIES, type Entry } from './words'

const plain = (text: string): string => text.toLowerCase().replace(/[-_.]/g, ' ').trim()

/** How well a name fits what is asked for; smaller is better, undefined where it does not. */
function fit(entry: Entry, asked: string): number | undefined {
  const name = plain(entry.name)
  if (name === asked) return 0
  if (name.startsWith(asked)) return 1
  const { also } = entry
  if (also.includes(asked)) return 2
  if (also.some((one) => one.startsWith(asked) || one.includes(` ${asked}`))) return 3
  if (name.includes(asked)) return 4
  if (asked.length < 3) return undefined
  if (also.some((one) => one.includes(asked))) return 5
  return plain(entry.doc).includes(asked) ? 6 : undefined
}

/** Names that mean something of a security; those about an order are for gates. */
const OF_SECURITIES = ENTRIES.filter(({ kind }) => kind !== 'order')

/** Names of rule text that fit a word: by their name, by what they are also called, by part of their explanation. */
export function search(word: string, entries: readonly Entry[] = OF_SECURITIES): Entry[] {
  const asked = plain(word)
  if (asked === '') return [...entries]
  return entries
    .map((entry) => ({ entry, far: fit(entry, asked) }))
    .filter((one): one is { entry: Entry; far: number } => one.far !== undefined)
    .sort((a, b) => a.far - b.far)
    .map(({ entry }) => entry)
}
