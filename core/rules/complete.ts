import { ENTRIES, type Entry } from './catalogue'
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

/** One thing that could be written at the cursor. `insert` replaces the text from `from` to the cursor. */
export interface Suggestion {
  label: string
  insert: string
  detail: string
  doc: string
  kind: Entry['kind'] | 'word' | 'output'
}

const AFTER_VALUE: Suggestion[] = [
  ['crosses above', 'the moment it rises past', 'Was at or below on the bar before, is above now.'],
  ['crosses below', 'the moment it falls past', 'Was at or above on the bar before, is below now.'],
  ['between', 'x between low and high', 'From low to high, both included.'],
  ['and', 'both conditions', 'Holds if both sides hold.'],
  ['or', 'either condition', 'Holds if at least one side holds.'],
].map(([label, detail, doc]) => ({ label, insert: label, detail, doc, kind: 'word' as const }))

const FANS: Suggestion[] = [
  ['all of (', 'all of (a, b, …)', 'Every one of several conditions, or values beside a comparison.'],
  ['any of (', 'any of (a, b, …)', 'At least one of several conditions, or values beside a comparison.'],
  ['count of (', 'count of (a, b, …)', 'How many of several conditions hold.'],
].map(([label, detail, doc]) => ({
  label: label.replace(' (', ''),
  insert: label,
  detail,
  doc,
  kind: 'word' as const,
}))

const NOT: Suggestion = {
  label: 'not',
  insert: 'not ',
  detail: 'the contrary',
  doc: 'Holds if the condition fails.',
  kind: 'word',
}

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
  const words = [...FANS, NOT].filter((o) => o.label.startsWith(start))
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
