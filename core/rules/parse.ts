import { EOF, type ILexingError, type IRecognitionException, type IToken } from 'chevrotain'
import { ruleParser } from './grammar'
import { type Issue } from './issues'
import { Close, Compare, lexer, Minus, Not, Open, Relation } from './tokens'
import { childrenOf, type Node } from './tree'

/** Brackets, "not" and signs may nest this deep; people need fewer than ten. */
export const DEPTH_LIMIT = 64
/** Characters of one rule. */
export const LENGTH_LIMIT = 20_000

export type Parsed = { tree: Node; issues: [] } | { tree?: undefined; issues: Issue[] }

/** Reads rule text. Gives the tree, or what is wrong and where; never throws for any text. */
export function parse(text: string): Parsed {
  if (text.trim() === '') return failed({ code: 'empty', at: { from: 0, to: text.length } })
  if (text.length > LENGTH_LIMIT) {
    return failed({ code: 'too_long', limit: LENGTH_LIMIT, at: { from: LENGTH_LIMIT, to: text.length } })
  }
  const { tokens, errors } = lexer.tokenize(text)
  if (errors.length > 0) return { issues: errors.map((error) => unknownSign(text, error)) }
  const deep = tooDeep(tokens)
  if (deep) return failed(deep)
  ruleParser.input = tokens
  const tree = ruleParser.rule()
  if (ruleParser.errors.length > 0) return { issues: [unexpected(text, ruleParser.errors[0])] }
  const literal = badLiteral(text, tree)
  return literal ? failed(literal) : { tree, issues: [] }
}

const failed = (issue: Issue): Parsed => ({ issues: [issue] })

function unknownSign(text: string, error: ILexingError): Issue {
  const at = { from: error.offset, to: error.offset + error.length }
  return { code: 'unknown_sign', sign: text.slice(at.from, at.to), at }
}

function tooDeep(tokens: IToken[]): Issue | undefined {
  let depth = 0
  let run = 0
  for (const token of tokens) {
    if (token.tokenType === Open) depth++
    else if (token.tokenType === Close) depth--
    run = token.tokenType === Not || token.tokenType === Minus ? run + 1 : 0
    if (depth + run > DEPTH_LIMIT) {
      const at = { from: token.startOffset, to: token.startOffset + token.image.length }
      return { code: 'too_deep', limit: DEPTH_LIMIT, at }
    }
  }
  return undefined
}

function unexpected(text: string, error: IRecognitionException): Issue {
  const { token } = error
  const atEnd = token.tokenType === EOF
  const from = atEnd ? Math.max(0, text.trimEnd().length - 1) : token.startOffset
  const at = { from, to: atEnd ? text.length : from + token.image.length }
  if (
    error.name === 'NotAllInputParsedException' &&
    (token.tokenType === Compare || token.tokenType === Relation)
  )
    return { code: 'chained_comparison', at }
  const found = atEnd ? 'the end' : `"${token.image}"`
  return { code: 'unexpected', found, wanted: wantedBy(error), at }
}

/** What could have stood there, in words. */
function wantedBy(error: IRecognitionException): string {
  const rule = error.context.ruleStack.at(-1)
  if (error.name === 'MismatchedTokenException') {
    const expected = /--> (.*?) <--/.exec(error.message)?.[1]
    if (expected) return expected
  }
  if (error.name === 'NotAllInputParsedException') return '"and", "or" or the end'
  if (rule === 'comparison') return 'a comparison such as ">" or "crosses above"'
  return 'a series, a function or a number'
}

function badLiteral(text: string, node: Node): Issue | undefined {
  const at = node.at!
  if (node.kind === 'time' && (node.minutes > 1439 || /:[6-9]/.test(text.slice(at.from, at.to)))) {
    return { code: 'bad_time', text: text.slice(at.from, at.to), at }
  }
  if (node.kind === 'duration' && (!Number.isInteger(node.count) || node.count < 1)) {
    return { code: 'bad_count', text: text.slice(at.from, at.to), at }
  }
  for (const child of childrenOf(node)) {
    const issue = badLiteral(text, child)
    if (issue) return issue
  }
  return undefined
}
