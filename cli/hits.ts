import { writeCsv } from '../core/formats/csv'
import { followed } from '../core/scan/followed'
import { addHits, countHits, type HitCounts } from '../core/scan/history'
import { sayFollowed } from '../core/scan/sayFollowed'
import { ruleTree } from './expressions'
import { EXIT, Failure, note } from './fail'
import { groupsOf, type SecuritiesOptions } from './securities'

export interface HitsOptions extends SecuritiesOptions {
  rule: string
  ahead: string[]
}

/**
 * Every time that a rule came true, as CSV: symbol, date, close and the change of the close over so many bars, in
 * percent, empty where they have not come. What followed, against all other bars, is told. Throws Failure.
 */
export async function hits(options: HitsOptions): Promise<string> {
  const ahead = options.ahead.map((text) => {
    if (!/^\d{1,4}$/.test(text) || Number(text) < 1)
      throw new Failure(`"${text}" is not a whole number of bars from 1 to 9999.`, EXIT.usage)
    return Number(text)
  })
  const rows: (string | number)[][] = []
  let all: HitCounts | undefined
  for (const group of await groupsOf(options, (every) => [ruleTree(options.rule, every)])) {
    const { set, every, others, besides } = group
    const found = countHits(set, ruleTree(options.rule, every), ahead, { rows: group.rows, others, besides })
    const rowOf = new Map(set.symbols.map((symbol, i) => [symbol, i]))
    for (const hit of found.hits) {
      const bars = set.bars[rowOf.get(hit.symbol)!]
      const date = group.dateOf(hit.symbol, bars.time.indexOf(hit.time))
      rows.push([hit.symbol, date, hit.close, ...hit.changes])
    }
    all = addHits(all, found)
  }
  note(`it came true ${rows.length === 1 ? 'once' : `${rows.length} times`}`)
  for (const k of ahead.keys()) {
    const f = followed(all!, k)
    if (f.cases === 0) continue
    note(sayFollowed(rows.length, f))
  }
  return writeCsv(['symbol', 'date', 'close', ...ahead.map((n) => `after ${n} %`)], rows, '\n')
}
