import { readFileSync } from 'node:fs'
import { readSymbols } from '../core/formats/symbolList'
import { Failure, note } from './fail'

/** Left-out symbols are told up to here, then counted. */
const TOLD = 8

/** Symbols that were asked for, between commas or in a list, @file; those that are not there are told. Throws Failure. */
export function amongOf(text: string, there: ReadonlySet<string>): ReadonlySet<string> {
  let list = text
  if (text.startsWith('@')) {
    try {
      list = readFileSync(text.slice(1), 'utf8')
    } catch {
      throw new Failure(`${text.slice(1)}: this list could not be read.`)
    }
  }
  const { symbols, unknown } = readSymbols(list, there)
  const words = unknown.slice(0, TOLD).map(({ word }) => word)
  const more = unknown.length > TOLD ? ` and ${unknown.length - TOLD} more` : ''
  if (words.length > 0) note(`there are no bars of these, left out: ${words.join(', ')}${more}`)
  return new Set(symbols)
}
