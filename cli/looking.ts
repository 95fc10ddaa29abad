import { type Command } from 'commander'
import { breadth, type BreadthOptions } from './breadth'
import { hits, type HitsOptions } from './hits'
import { indicators, type IndicatorsOptions } from './indicators'
import { bars, type BarsOptions } from './market'
import { adjustment, AMONG, collect, COLUMNS, EVERY, INDEX, withBroker, wholeNumber, ZONE } from './options'
import { scan, type ScanOptions } from './scan'

const FILES = [
  '--bars <path...>',
  'CSV files, folders of them, or -; the broker’s market where left out',
] as const
const LAST = [
  '--last <bars>',
  'of the broker’s market: so many bars of each, the last ones',
  wholeNumber,
] as const
const SO_FAR = ['--so-far', 'of the broker’s market: the bar that grows counts as well'] as const

/** Of a command over many securities: where their bars come from, and which of them it looks at. */
const overMany = (command: Command): Command =>
  ofFiles(
    command
      .option(...FILES)
      .option(...LAST)
      .option(...AMONG)
      .option(...INDEX),
  )

/** Of a command that reads bars of files as well: how they are made into those that it looks at. */
const ofFiles = (command: Command): Command =>
  command
    .option(...EVERY)
    .option(...COLUMNS)
    .option(...ZONE)

/** Commands that look at bars: those of files, or those of the broker's market. */
export function looking(heron: Command, print: (text: string) => void): void {
  const command = (name: string, description: string) =>
    withBroker(heron.command(name).description(description))
  ofFiles(command('indicators', 'prints measures over the bars of one security'))
    .option('--bars <file>', 'file of bars (CSV, text, ZIP), or -; the broker’s where left out')
    .option('--expr <measure>', 'a measure in rule text; may be given again', collect, [])
    .option('--symbol <symbol>', 'which security: of the broker, or of a file that holds several')
    .option('--list [word]', 'prints what can be measured, or what fits a word, and reads nothing')
    .option(
      '--last <rows>',
      'of the broker’s bars: so many rows, the last ones; 250 where left out',
      wholeNumber,
    )
    .option(...SO_FAR)
    .action(async (options: IndicatorsOptions) => print(await indicators(options)))
  overMany(command('scan', 'prints the securities that meet a rule at their last bar'))
    .requiredOption('--rule <rule>', 'a rule in rule text')
    .option('--measure <measure>', 'a measure to print beside; may be given again', collect, [])
    .option('--as-of <date>', 'as it would have been at the end of that day')
    .option(...SO_FAR)
    .action(async (options: ScanOptions) => print(await scan(options)))
  overMany(command('hits', 'prints every time that a rule came true, and what the close did after'))
    .requiredOption('--rule <rule>', 'a rule in rule text')
    .option('--ahead <bars...>', 'after how many bars to compare', ['1', '5', '20'])
    .action(async (options: HitsOptions) => print(await hits(options)))
  ofFiles(heron.command('breadth'))
    .description('counts new closing highs and lows, rises and falls, over many securities')
    .requiredOption('--bars <path...>', 'CSV files, folders of them, or -')
    .option(...AMONG)
    .option('--look-back <bars>', 'bars over which a close is new', wholeNumber, 252)
    .option('--last <rows>', 'print only so many last rows', wholeNumber, Infinity)
    .action(async (options: BreadthOptions) => print(await breadth(options)))
  command('bars', 'prints bars of the broker’s market as CSV, which the other commands read')
    .option('--every <timeframe>', 'how long a bar is, such as "5 min" or "1 week"', '1 day')
    .option(...AMONG)
    .option('--from <moment>', 'first date, or moment')
    .option('--to <moment>', 'last date, or the moment before which the last bar begins')
    .option(
      '--last <bars>',
      'at most so many of each, the last ones; 500 where no --from is named',
      wholeNumber,
    )
    .option('--prices <prices>', 'as-traded, over-splits or over-splits-and-dividends', adjustment)
    .option(...SO_FAR)
    .action(async (options: BarsOptions) => print(await bars(options, print)))
}
