import { createToken, Lexer, type TokenType } from 'chevrotain'
import { ENTRIES, RELATIONS } from './words'

/** The words and signs of rule text. Their `label` is what a message calls them. */

/** Words, the longest first so that none hides another. */
const longestFirst = (words: string[]) => words.sort((a, b) => b.length - a.length)

const PHRASES = longestFirst(ENTRIES.map(({ name }) => name).filter((name) => name.includes(' ')))

const isSign = (name: string): boolean => !/[a-z]/.test(name)

const pattern = (words: string[]): RegExp =>
  new RegExp(`(?:${words.map((w) => w.replaceAll(' ', '\\s+')).join('|')})\\b`, 'i')

const word = (name: string, pattern: RegExp, label: string, categories: TokenType[] = []) =>
  createToken({ name, pattern, label, longer_alt: Identifier, categories })

export const Identifier = createToken({
  name: 'Identifier',
  pattern: /[A-Za-z_][A-Za-z0-9_]*/,
  label: 'a name',
})

export const And = word('And', /and/i, '"and"')
export const Or = word('Or', /or/i, '"or"')
export const Not = word('Not', /not/i, '"not"')
export const Between = word('Between', /between/i, '"between"')
/** What stands between two values in words: "crosses above". */
export const Relation = createToken({
  name: 'Relation',
  pattern: pattern(longestFirst([...RELATIONS.keys()].filter((name) => !isSign(name)))),
  label: 'a relation such as "crosses above"',
  longer_alt: Identifier,
  line_breaks: true,
})
export const AllOf = createToken({
  name: 'AllOf',
  pattern: /all\s+of\b/i,
  label: '"all of"',
  line_breaks: true,
})
export const AnyOf = createToken({
  name: 'AnyOf',
  pattern: /any\s+of\b/i,
  label: '"any of"',
  line_breaks: true,
})
export const CountOf = createToken({
  name: 'CountOf',
  pattern: /count\s+of\b/i,
  label: '"count of"',
  line_breaks: true,
})
/** Names of several words, longest first; single spaces in the tree, any in the text. */
export const Phrase = createToken({
  name: 'Phrase',
  pattern: pattern(PHRASES),
  label: 'a name',
  line_breaks: true,
})
export const TicksWord = word('TicksWord', /ticks?/i, '"ticks"')
export const DurationWord = word(
  'DurationWord',
  /(?:bars?|minutes?|min|hours?|days?|weeks?|months?)/i,
  'a length such as "bars" or "days"',
)

export const TimeOfDay = createToken({ name: 'TimeOfDay', pattern: /\d{1,2}:\d{2}/, label: 'a time of day' })
export const Dollars = createToken({
  name: 'Dollars',
  pattern: /[$€£]\s*\d+(?:\.\d+)?(?:[kKMB]\b)?/,
  label: 'an amount',
})
export const NumberToken = createToken({
  name: 'NumberToken',
  pattern: /(?:\d+(?:\.\d+)?|\.\d+)(?:[kKMB]\b)?/,
  label: 'a number',
})
export const Text = createToken({ name: 'Text', pattern: /"[^"\n]*"/, label: 'a text in quotes' })

export const Compare = createToken({
  name: 'Compare',
  pattern: new RegExp(longestFirst([...RELATIONS.keys()].filter(isSign)).join('|')),
  label: 'a comparison such as ">"',
})
export const Plus = createToken({ name: 'Plus', pattern: /\+/, label: '"+"' })
export const Minus = createToken({ name: 'Minus', pattern: /[-−]/, label: '"-"' })
export const Times = createToken({ name: 'Times', pattern: /[*×]/, label: '"*"' })
export const Over = createToken({ name: 'Over', pattern: /\//, label: '"/"' })
export const Percent = createToken({ name: 'Percent', pattern: /%/, label: '"%"' })
export const Open = createToken({ name: 'Open', pattern: /\(/, label: '"("' })
export const Close = createToken({ name: 'Close', pattern: /\)/, label: '")"' })
export const Comma = createToken({ name: 'Comma', pattern: /,/, label: '","' })
export const Dot = createToken({ name: 'Dot', pattern: /\./, label: '"."' })
const Space = createToken({ name: 'Space', pattern: /\s+/, group: Lexer.SKIPPED, line_breaks: true })

export const TOKENS: TokenType[] = [
  Space,
  Relation,
  AllOf,
  AnyOf,
  CountOf,
  Phrase,
  And,
  Or,
  Not,
  Between,
  TicksWord,
  DurationWord,
  Identifier,
  TimeOfDay,
  Dollars,
  NumberToken,
  Text,
  Compare,
  Plus,
  Minus,
  Times,
  Over,
  Percent,
  Open,
  Close,
  Comma,
  Dot,
]

/** Cuts rule text into words; whether the words are free of contradictions is `checked` by their test. */
export const makeLexer = ({ checked = false } = {}): Lexer =>
  new Lexer(TOKENS, { positionTracking: 'onlyOffset', skipValidations: !checked })

export const lexer = makeLexer()

/** What a piece of rule text is, for highlighting. */
export type Ink = 'word' | 'name' | 'value' | 'text' | 'sign'

/** The coloured pieces of a text, also of a half-typed one. */
export function inkOf(text: string): { from: number; to: number; ink: Ink }[] {
  const words = new Set<TokenType>([And, Or, Not, Between, Relation, AllOf, AnyOf, CountOf])
  const values = new Set<TokenType>([NumberToken, Dollars, TimeOfDay, Percent, TicksWord, DurationWord])
  return lexer.tokenize(text).tokens.map((token) => ({
    from: token.startOffset,
    to: token.startOffset + token.image.length,
    ink: words.has(token.tokenType)
      ? 'word'
      : token.tokenType === Identifier || token.tokenType === Phrase
        ? 'name'
        : values.has(token.tokenType)
          ? 'value'
          : token.tokenType === Text
            ? 'text'
            : 'sign',
  }))
}
