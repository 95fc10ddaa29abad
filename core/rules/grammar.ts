import { EmbeddedActionsParser, type IToken } from 'chevrotain'
import * as T from './tokens'
import { type Arithmetic, CURRENCY_SIGNS, type DurationUnit, type Each, type Node, type Span } from './tree'

const SUFFIX: Record<string, string> = { k: 'e3', K: 'e3', M: 'e6', B: 'e9' }

/** "1.5M" as a number, exactly the decimal that was written. */
function valueOf(image: string): number {
  const digits = image.replace(/[$€£\s]/g, '')
  const suffix = SUFFIX[digits.slice(-1)]
  return suffix ? Number(digits.slice(0, -1) + suffix) : Number(digits)
}

const spanOf = (token: IToken): Span => ({
  from: token.startOffset,
  to: token.startOffset + token.image.length,
})
const across = (first: Node, last: Node): Span => ({ from: first.at?.from ?? 0, to: last.at?.to ?? 0 })

/** "bars", "minutes", "days" as the unit that the tree holds. */
function durationUnit(image: string): DurationUnit {
  const word = image.toLowerCase().replace(/s$/, '')
  return (word === 'minute' ? 'min' : word) as DurationUnit
}

/**
 * The one grammar of rule text, loosest binding first: or, and, not, comparison, sum, product, sign, value.
 * Yes/no and number parts share it; the checker tells them apart, so that its message can say what is meant.
 */
export class RuleParser extends EmbeddedActionsParser {
  /** Whether the grammar is free of contradictions is `checked` by its test, not each time a page or a worker starts. */
  constructor({ checked = false } = {}) {
    super(T.TOKENS, { maxLookahead: 2, recoveryEnabled: false, skipValidations: !checked })
    this.performSelfAnalysis()
  }

  readonly rule = this.RULE('rule', (): Node => this.SUBRULE(this.either))

  private readonly either = this.RULE('either', (): Node => {
    const parts = [this.SUBRULE(this.both)]
    this.MANY(() => {
      this.CONSUME(T.Or)
      parts.push(this.SUBRULE2(this.both))
    })
    return this.ACTION(() => joined('or', parts))
  })

  private readonly both = this.RULE('both', (): Node => {
    const parts = [this.SUBRULE(this.negation)]
    this.MANY(() => {
      this.CONSUME(T.And)
      parts.push(this.SUBRULE2(this.negation))
    })
    return this.ACTION(() => joined('and', parts))
  })

  private readonly negation = this.RULE('negation', (): Node =>
    this.OR<Node>([
      {
        ALT: () => {
          const word = this.CONSUME(T.Not)
          const of = this.SUBRULE(this.negation)
          return this.ACTION((): Node => ({
            kind: 'not',
            of,
            at: { from: spanOf(word).from, to: of.at!.to },
          }))
        },
      },
      { ALT: () => this.SUBRULE(this.comparison) },
    ]),
  )

  private readonly comparison = this.RULE('comparison', (): Node => {
    let node = this.SUBRULE(this.sum)
    this.OPTION(() => {
      node = this.OR<Node>([
        {
          ALT: () => {
            const word = this.OR2([
              { ALT: () => this.CONSUME(T.Compare) },
              { ALT: () => this.CONSUME(T.Relation) },
            ])
            const right = this.SUBRULE2(this.sum)
            const left = node
            return this.ACTION((): Node => {
              const how = word.image.toLowerCase().replace(/\s+/g, ' ')
              return { kind: 'relate', how, left, right, at: across(left, right) }
            })
          },
        },
        {
          ALT: () => {
            this.CONSUME(T.Between)
            const low = this.SUBRULE5(this.sum)
            this.CONSUME(T.And)
            const high = this.SUBRULE6(this.sum)
            const of = node
            return this.ACTION((): Node => ({ kind: 'between', of, low, high, at: across(of, high) }))
          },
        },
      ])
    })
    return node
  })

  private readonly sum = this.RULE('sum', (): Node => {
    let node = this.SUBRULE(this.product)
    this.MANY(() => {
      const sign = this.OR([{ ALT: () => this.CONSUME(T.Plus) }, { ALT: () => this.CONSUME(T.Minus) }])
      const right = this.SUBRULE2(this.product)
      node = this.ACTION(() => arith(sign.tokenType === T.Plus ? '+' : '-', node, right))
    })
    return node
  })

  private readonly product = this.RULE('product', (): Node => {
    let node = this.SUBRULE(this.signed)
    this.MANY(() => {
      const sign = this.OR([{ ALT: () => this.CONSUME(T.Times) }, { ALT: () => this.CONSUME(T.Over) }])
      const right = this.SUBRULE2(this.signed)
      node = this.ACTION(() => arith(sign.tokenType === T.Times ? '*' : '/', node, right))
    })
    return node
  })

  private readonly signed = this.RULE('signed', (): Node =>
    this.OR<Node>([
      {
        ALT: () => {
          const sign = this.CONSUME(T.Minus)
          const of = this.SUBRULE(this.signed)
          return this.ACTION((): Node => ({
            kind: 'negate',
            of,
            at: { from: spanOf(sign).from, to: of.at!.to },
          }))
        },
      },
      { ALT: () => this.SUBRULE(this.value) },
    ]),
  )

  private readonly value = this.RULE('value', (): Node =>
    this.OR<Node>([
      { ALT: () => this.SUBRULE(this.quantity) },
      {
        ALT: () => {
          const token = this.CONSUME(T.Dollars)
          return this.ACTION((): Node => {
            const currency = CURRENCY_SIGNS[token.image[0] as keyof typeof CURRENCY_SIGNS]
            return {
              kind: 'number',
              value: valueOf(token.image),
              unit: 'price',
              ...(currency === 'USD' ? {} : { currency }),
              at: spanOf(token),
            }
          })
        },
      },
      {
        ALT: () => {
          const token = this.CONSUME(T.TimeOfDay)
          return this.ACTION((): Node => {
            const [hours, minutes] = token.image.split(':').map(Number)
            return { kind: 'time', minutes: hours * 60 + minutes, at: spanOf(token) }
          })
        },
      },
      {
        ALT: () => {
          const token = this.CONSUME(T.Text)
          return this.ACTION((): Node => ({
            kind: 'text',
            value: token.image.slice(1, -1),
            at: spanOf(token),
          }))
        },
      },
      { ALT: () => this.SUBRULE(this.fan) },
      { ALT: () => this.SUBRULE(this.named) },
      {
        ALT: () => {
          const open = this.CONSUME(T.Open)
          const inner = this.SUBRULE(this.either)
          const close = this.CONSUME(T.Close)
          return this.ACTION((): Node => ({
            ...inner,
            at: { from: spanOf(open).from, to: spanOf(close).to },
          }))
        },
      },
    ]),
  )

  /** A number with what it counts: plain, percent, ticks, or a length of time. */
  private readonly quantity = this.RULE('quantity', (): Node => {
    const token = this.CONSUME(T.NumberToken)
    let node: Node = this.ACTION((): Node => ({
      kind: 'number',
      value: valueOf(token.image),
      unit: 'number',
      at: spanOf(token),
    }))
    this.OPTION(() => {
      node = this.OR<Node>([
        {
          ALT: () => {
            const sign = this.CONSUME(T.Percent)
            return this.ACTION((): Node => ({
              kind: 'number',
              value: valueOf(token.image),
              unit: 'percent',
              at: { from: token.startOffset, to: spanOf(sign).to },
            }))
          },
        },
        {
          ALT: () => {
            const word = this.CONSUME(T.TicksWord)
            return this.ACTION((): Node => ({
              kind: 'number',
              value: valueOf(token.image),
              unit: 'ticks',
              at: { from: token.startOffset, to: spanOf(word).to },
            }))
          },
        },
        {
          ALT: () => {
            const word = this.CONSUME(T.DurationWord)
            return this.ACTION((): Node => ({
              kind: 'duration',
              count: valueOf(token.image),
              unit: durationUnit(word.image),
              at: { from: token.startOffset, to: spanOf(word).to },
            }))
          },
        },
      ])
    })
    return node
  })

  /** Several conditions or values, of which all or any must do. */
  private readonly fan = this.RULE('fan', (): Node => {
    const word = this.OR([
      { ALT: () => this.CONSUME(T.AllOf) },
      { ALT: () => this.CONSUME(T.AnyOf) },
      { ALT: () => this.CONSUME(T.CountOf) },
    ])
    const parts: Node[] = []
    this.CONSUME(T.Open)
    this.AT_LEAST_ONE_SEP({ SEP: T.Comma, DEF: () => parts.push(this.SUBRULE(this.either)) })
    const close = this.CONSUME(T.Close)
    return this.ACTION((): Node => {
      const each: Each = word.tokenType === T.AllOf ? 'all' : word.tokenType === T.AnyOf ? 'any' : 'count'
      const at = { from: word.startOffset, to: spanOf(close).to }
      return parts.length === 1 && each !== 'count' ? { ...parts[0], at } : { kind: 'fan', each, parts, at }
    })
  })

  /** A series by name, or a function with its arguments and, after a dot, one of its outputs. */
  private readonly named = this.RULE('named', (): Node => {
    const token = this.OR([{ ALT: () => this.CONSUME(T.Identifier) }, { ALT: () => this.CONSUME(T.Phrase) }])
    const name = this.ACTION(() => token.image.toLowerCase().replace(/\s+/g, ' '))
    let node: Node = this.ACTION((): Node => ({ kind: 'name', name, at: spanOf(token) }))
    const args: Node[] = []
    this.OPTION(() => {
      this.CONSUME(T.Open)
      this.MANY_SEP({ SEP: T.Comma, DEF: () => args.push(this.SUBRULE(this.either)) })
      const close = this.CONSUME(T.Close)
      const at = this.ACTION(() => ({ from: token.startOffset, to: spanOf(close).to }))
      // Empty brackets say no more than the name alone.
      node = this.ACTION((): Node =>
        args.length === 0 ? { kind: 'name', name, at } : { kind: 'call', name, args, at },
      )
    })
    this.OPTION2(() => {
      this.CONSUME(T.Dot)
      const output = this.CONSUME2(T.Identifier)
      node = this.ACTION((): Node => ({
        kind: 'call',
        name,
        args,
        output: output.image.toLowerCase(),
        at: { from: token.startOffset, to: spanOf(output).to },
      }))
    })
    return node
  })
}

const arith = (op: Arithmetic, left: Node, right: Node): Node => ({
  kind: 'arith',
  op,
  left,
  right,
  at: across(left, right),
})

/** One part stands alone; several of the same word are one flat list. */
const joined = (op: 'and' | 'or', parts: Node[]): Node =>
  parts.length === 1 ? parts[0] : { kind: 'logic', op, parts, at: across(parts[0], parts[parts.length - 1]) }

export const ruleParser = new RuleParser()
