import { readCsv } from './csv'

/** Symbols of a list, and what of the text was none. */
export interface ReadSymbols {
  symbols: string[]
  /** Words that are no listed security, each once, with the line on which it first stood. */
  unknown: { line: number; word: string }[]
}

const COLUMN = /^(symbol|ticker|security|code|instrument)$/i

/**
 * Reads a list of symbols: words on lines or between commas, or a CSV file with a column of symbols. `known` says
 * which symbols there are; all are taken where it is left out. Order is kept, repeats are passed over.
 */
export function readSymbols(text: string, known?: ReadonlySet<string>): ReadSymbols {
  const out: ReadSymbols = { symbols: [], unknown: [] }
  const seen = new Set<string>()
  for (const { line, word } of wordsOf(text)) {
    const symbol = word.toUpperCase()
    if (symbol === '' || seen.has(symbol)) continue
    seen.add(symbol)
    if (!known || known.has(symbol)) out.symbols.push(symbol)
    else out.unknown.push({ line, word })
  }
  return out
}

function wordsOf(text: string): { line: number; word: string }[] {
  const lines = text.replace(/^\uFEFF/, '').split(/\r?\n/)
  const header = lines[0]?.split(/[,;\t|]/).map((cell) => cell.trim().replace(/^"|"$/g, '')) ?? []
  const column = header.findIndex((cell) => COLUMN.test(cell))
  if (column >= 0)
    return readCsv(text).rows.map(({ line, cells }) => ({ line, word: (cells[column] ?? '').trim() }))
  return lines.flatMap((content, i) =>
    content
      .split(/[\s,;|]+/)
      .filter(Boolean)
      .map((word) => ({ line: i + 1, word: word.replace(/^"|"$/g, '') })),
  )
}
