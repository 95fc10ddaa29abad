import { INDICATORS } from '../indicators'
import { Identifier, lexer } from './tokens'
import { FUNCTIONS, NAMES } from './words'

/** The names in a piece of rule text, with where they begin, and whether they are words of its own. */
export const wordsOf = (text: string): { word: string; at: number; known: boolean }[] =>
  lexer.tokenize(text).tokens.flatMap(({ tokenType, image, startOffset }) =>
    tokenType === Identifier
      ? [
          {
            word: image,
            at: startOffset,
            known: NAMES.has(image) || FUNCTIONS.has(image) || INDICATORS.get(image) !== undefined,
          },
        ]
      : [],
  )
