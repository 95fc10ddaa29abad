import { search } from './search'
import {
  Close,
  Dot,
  DurationWord,
  Identifier,
  lexer,
  NumberToken,
  Open,
  Percent,
  Phrase,
  Text,
  TicksWord,
  TimeOfDay,
  Dollars,
} from './tokens'
import { ENTRIES, type Entry, RELATIONS, SIGNS } from './words'
import { type RelationWord, type SignWord } from './words/types'

/** One thing that could be written at the cursor. `insert` replaces the text from `from` to the cursor. */
export interface Suggestion {
  label: string
  insert: string
  detail: string
  doc: string
  kind: Entry['kind'] | 'word' | 'output'
}

/** A word that joins others, as it may be written; its name alone stands where one types its beginning. */
const joining = ({ name, usage, doc }: RelationWord | SignWord, insert = name): Suggestion => ({
  ...{ label: name, insert, detail: usage, doc, kind: 'word' },
})

const isWord = ({ name }: { name: string }): boolean => /^[a-z]/.test(name)

const AFTER_VALUE: Suggestion[] = [
  ...[...RELATIONS.values()].filter(isWord).map((word) => joining(word)),
  ...[...SIGNS.values()]
    .filter((word) => isWord(word) && word.stands !== 'first')
    .map((word) => joining(word)),
]

const FIRST: Suggestion[] = [...SIGNS.values()]
  .filter((word) => isWord(word) && word.stands === 'first')
  .map((word) => joining(word, word.usage.includes('(') ? `${word.name} (` : `${word.name} `))

const VALUE_ENDS = new Set([
  Identifier,
  Phrase,
  NumberToken,
  Dollars,
  Percent,
  TicksWord,
  DurationWord,
  TimeOfDay,
  Text,
  Close,
])

/** What may be written at an offset of a text: outputs after a dot, joining words after a value, else names. */
export function complete(text: string, offset: number): { from: number; suggestions: Suggestion[] } {
  const { tokens } = lexer.tokenize(text.slice(0, offset))
  const last = tokens.at(-1)
  const typing =
    last && /[A-Za-z_]$/.test(last.image) && last.startOffset + last.image.length === offset
      ? last
      : undefined
  const before = typing ? tokens.at(-2) : last
  const from = typing ? typing.startOffset : offset
  const start = typing?.image.toLowerCase() ?? ''
  if (before?.tokenType === Dot)
    return { from, suggestions: outputsBefore(text.slice(0, before.startOffset)) }
  if (before && VALUE_ENDS.has(before.tokenType))
    return { from, suggestions: AFTER_VALUE.filter((o) => o.label.startsWith(start)) }
  // Names by what they are also called, and by part of their explanation: one need not know how it is written.
  const words = FIRST.filter((o) => o.label.startsWith(start))
  return { from, suggestions: [...search(start).map(suggest), ...words] }
}

const suggest = (entry: Entry): Suggestion => ({
  label: entry.name,
  insert: entry.usage.includes('(') ? `${entry.name}(` : entry.name,
  detail: entry.usage === entry.name ? '' : entry.usage,
  doc:
    entry.outputs.length > 0
      ? `${entry.doc} Gives ${entry.outputs.map((o) => `.${o}`).join(', ')}.`
      : entry.doc,
  kind: entry.kind,
})

/** Outputs of the indicator whose closing bracket ends the text. */
function outputsBefore(text: string): Suggestion[] {
  let depth = 0
  const { tokens } = lexer.tokenize(text)
  for (let i = tokens.length - 1; i > 0; i--) {
    if (tokens[i].tokenType === Close) depth++
    else if (tokens[i].tokenType === Open && --depth === 0) {
      const entry = ENTRIES.find((e) => e.name === tokens[i - 1].image.toLowerCase())
      return (entry?.outputs ?? []).map((o) => ({
        label: o,
        insert: o,
        detail: `${entry!.name}.${o}`,
        doc: entry!.doc,
        kind: 'output',
      }))
    }
  }
  return []
}
