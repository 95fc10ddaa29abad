import { Command, CommanderError } from 'commander'
import { IANAZone } from 'luxon'
import { breadth, type BreadthOptions } from './breadth'
import { EXIT, Failure, note } from './fail'
import { hits, type HitsOptions } from './hits'
import { indicators, type IndicatorsOptions } from './indicators'
import { scan, type ScanOptions } from './scan'

const collect = (value: string, before: string[]) => [...before, value]

function zoneName(value: string): string {
  if (!IANAZone.isValidZone(value))
    throw new Failure(`"${value}" is not a time zone. Use an IANA name such as America/Halifax.`, EXIT.usage)
  return value
}

function wholeNumber(value: string): number {
  if (/^\d+$/.test(value) && Number(value) > 0) return Number(value)
  throw new Failure(`"${value}" is not a whole number above nought.`, EXIT.usage)
}

const ZONE = ['--zone <zone>', 'zone of times that name none', zoneName, 'UTC'] as const

const EVERY = ['--every <timeframe>', 'make the bars into longer ones first, such as "1 week"'] as const
const AMONG = ['--among <symbols>', 'only these: symbols between commas, or @file with a list'] as const
const COLUMNS = ['--columns <fields>', 'columns by name or number: date=Datum,close="Close/Last"'] as const
const INDEX = ['--index <symbol>', 'which security beside("index", x) means'] as const

function program(print: (text: string) => void): Command {
  const heron = new Command('heron')
    .description('Rules and measures over your own bars, without a browser.')
    .showHelpAfterError('Run heron --help to see how it is used.')
    .addHelpText(
      'after',
      `
Bars are CSV or text files, or a ZIP of them: date, open, high, low, close, volume, and a symbol column where one
file holds several securities. Columns are found by their names, or by what they hold; --columns says which is
which. - reads standard input. Results go to standard output as CSV, remarks to standard
error. Exit code: 0 done, 1 a file could not be used, 2 the command line or an expression is wrong.

  heron indicators --bars OSPRY.csv --expr "sma(close, 20)" --expr "bollinger(close, 20, 2).upper"
  heron scan --rule "close crosses above sma(close, 50)" --bars bars/ --measure "rsi(14)"
  heron scan --rule "strength(close, beside(\"index\", close), 63) > 5%" --bars bars/ --index BWALL --every "1 week"
  heron hits --rule "rsi(14) crosses above 34" --bars bars/ --among @mylist.csv
  heron breadth --bars bars/ --last 20
  heron indicators --list average`,
    )
  heron
    .command('indicators')
    .description('prints measures over the bars of one security')
    .option('--bars <file>', 'file of bars (CSV, text, ZIP), or -')
    .option('--expr <measure>', 'a measure in rule text; may be given again', collect, [])
    .option('--symbol <symbol>', 'which security, where the file holds several')
    .option('--list [word]', 'prints what can be measured, or what fits a word, and reads nothing')
    .option(...EVERY)
    .option(...COLUMNS)
    .option(...ZONE)
    .action((options: IndicatorsOptions) => print(indicators(options)))
  heron
    .command('scan')
    .description('prints the securities that meet a rule at their last bar')
    .requiredOption('--rule <rule>', 'a rule in rule text')
    .requiredOption('--bars <path...>', 'CSV files, folders of them, or -')
    .option('--measure <measure>', 'a measure to print beside; may be given again', collect, [])
    .option('--as-of <date>', 'as it would have been at the end of that day')
    .option(...EVERY)
    .option(...AMONG)
    .option(...INDEX)
    .option(...COLUMNS)
    .option(...ZONE)
    .action((options: ScanOptions) => print(scan(options)))
  heron
    .command('hits')
    .description('prints every time that a rule came true, and what the close did after')
    .requiredOption('--rule <rule>', 'a rule in rule text')
    .requiredOption('--bars <path...>', 'CSV files, folders of them, or -')
    .option('--ahead <bars...>', 'after how many bars to compare', ['1', '5', '20'])
    .option(...EVERY)
    .option(...AMONG)
    .option(...INDEX)
    .option(...COLUMNS)
    .option(...ZONE)
    .action((options: HitsOptions) => print(hits(options)))
  heron
    .command('breadth')
    .description('counts new closing highs and lows, rises and falls, over many securities')
    .requiredOption('--bars <path...>', 'CSV files, folders of them, or -')
    .option(...EVERY)
    .option(...AMONG)
    .option('--look-back <bars>', 'bars over which a close is new', wholeNumber, 252)
    .option('--last <rows>', 'print only so many last rows', wholeNumber, Infinity)
    .option(...COLUMNS)
    .option(...ZONE)
    .action((options: BreadthOptions) => print(breadth(options)))
  return heron
}

/** Runs the command line. Resolves to the exit code. */
export async function main(argv: readonly string[]): Promise<number> {
  // A reader that has seen enough, such as head, closes the pipe; that is no mistake.
  process.stdout.on('error', (error: NodeJS.ErrnoException) => {
    process.exit(error.code === 'EPIPE' ? EXIT.ok : EXIT.data)
  })
  const heron = program((text) => process.stdout.write(text))
  for (const command of [heron, ...heron.commands]) command.exitOverride()
  try {
    await heron.parseAsync([...argv])
    return EXIT.ok
  } catch (error) {
    if (error instanceof CommanderError) return error.exitCode === 0 ? EXIT.ok : EXIT.usage
    if (!(error instanceof Failure)) throw error
    note(error.message)
    return error.exit
  }
}
