import { type Issue } from './issues'

const list = (names: string[]): string =>
  names.length < 2 ? (names[0] ?? '') : `${names.slice(0, -1).join(', ')} or ${names[names.length - 1]}`

const UNIT_WORD: Record<string, string> = {
  number: 'a plain number',
  price: 'a price',
  percent: 'a percentage',
  ticks: 'a number of ticks',
  shares: 'a number of shares',
  money: 'an amount of money',
  clock: 'a time of day',
  contracts: 'a number of contracts',
}

const unitWord = (unit: string): string => UNIT_WORD[unit] ?? unit

/** One sentence about what is wrong with a rule and what mends it. */
export function sayIssue(issue: Issue): string {
  switch (issue.code) {
    case 'empty':
      return 'Write a rule, for example: close crosses above sma(close, 50)'
    case 'unknown_sign':
      return `"${issue.sign}" has no meaning in a rule. Take it out.`
    case 'unexpected':
      return `Found ${issue.found} where ${issue.wanted} should stand.`
    case 'too_deep':
      return `Brackets nest more than ${issue.limit} deep. Split the rule into simpler parts.`
    case 'too_long':
      return `A rule may have ${issue.limit.toLocaleString('en-US')} characters. Shorten it or split it in two.`
    case 'bad_time':
      return `"${issue.text}" is not a time of day. Write it as hours and minutes, 00:00 to 23:59.`
    case 'bad_date':
      return `"${issue.text}" is not a date. Write it as year-month-day: "2026-03-02".`
    case 'bad_count':
      return `"${issue.text}": count with a whole number of at least 1.`
    case 'chained_comparison':
      return 'Two comparisons in a row. Write "x between low and high", or join two comparisons with "and".'
    case 'unknown_name':
      return issue.near.length > 0
        ? `"${issue.name}" is not known. Did you mean ${list(issue.near)}?`
        : `"${issue.name}" is not known. Start typing to see the names that are.`
    case 'needs_arguments':
      return `${issue.name} needs its arguments in brackets: ${issue.usage}`
    case 'argument_count':
      return `${issue.name} was given ${issue.given} argument${issue.given === 1 ? '' : 's'}; it is used as ${issue.usage}`
    case 'wants_plain_number':
      return `The ${issue.parameter} of ${issue.name} must be a plain number, as in ${issue.usage}`
    case 'wants_minutes':
      return `The ${issue.parameter} of ${issue.name} is a length of time in minutes or hours, as in ${issue.usage}`
    case 'parameter_range':
      return `The ${issue.parameter} of ${issue.name} must be a ${issue.whole ? 'whole ' : ''}number from ${issue.min} to ${issue.max.toLocaleString('en-US')}.`
    case 'wants_duration':
      return issue.barsOnly
        ? `${issue.name} counts in bars, as in ${issue.usage}`
        : `${issue.name} needs a length such as "3 bars" or "1 day", as in ${issue.usage}`
    case 'wants_timeframe':
      return `A timeframe is minutes, hours, days, weeks or months, as in ${issue.usage}`
    case 'finer_than_bars':
      return `"${issue.asked}" is finer than the bars it would come from (${issue.bars}). Choose a longer one, or run the rule on finer bars.`
    case 'unknown_output':
      return issue.outputs.length > 0
        ? `${issue.name} has no "${issue.output}"; it has ${list(issue.outputs.map((o) => `.${o}`))}.`
        : `${issue.name} gives one value: leave out ".${issue.output}".`
    case 'wants_yes_no':
      return `"${issue.found}" is a number; a yes/no is needed here. Compare it with something, for example "${issue.found} > 0".`
    case 'wants_number':
      return `"${issue.found}" is a yes/no; a number is needed here.`
    case 'unit_mismatch': {
      const mend =
        issue.percentOf !== undefined
          ? ` For a share of it write ${issue.percentOf} * 5%.`
          : ' Bring both to the same unit.'
      const [left, right] = [unitWord(issue.left), unitWord(issue.right)]
      return issue.doing === 'add'
        ? `Cannot add or subtract ${left} and ${right}.${mend}`
        : `Cannot compare ${left} with ${right}.${mend}`
    }
    case 'currency_mismatch':
      return `One side is in ${issue.left}, the other in ${issue.right}: prices in two currencies cannot be added or compared. Compare their changes, for example roc(close, 20), or their ratio.`
    case 'misplaced_literal': {
      const what = { duration: 'A length of time', time: 'A time of day', text: 'A text' }[issue.what]
      return `${what} cannot stand here; a number or a series is needed.`
    }
    case 'wants_text':
      return issue.what === 'symbol'
        ? `${issue.name} needs a symbol in quotes, as in ${issue.usage}`
        : `${issue.name} needs the name of a drawing in quotes, as in ${issue.usage}`
    case 'unknown_symbol':
      return issue.near.length > 0
        ? `No security "${issue.symbol}" is known. Did you mean ${list(issue.near)}?`
        : `No security "${issue.symbol}" is known. Look it up with the search (/).`
    case 'unknown_drawing':
      return issue.names.length > 0
        ? `Nothing named "${issue.drawing}" is drawn. Drawn are ${issue.names.slice(0, 8).join(', ')}.`
        : `Nothing named "${issue.drawing}" is drawn. Draw it in Look and give it that name.`
    case 'no_arithmetic':
      return `Nothing can be added to or multiplied with ${unitWord(issue.unit)}; compare it, or write "time between 09:55 and 14:20".`
    case 'too_far_back':
      return `The rule looks back ${issue.bars.toLocaleString('en-US')} bars; at most ${issue.limit.toLocaleString('en-US')} are allowed. Use smaller lengths.`
  }
}
