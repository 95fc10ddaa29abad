import { memory } from './planMemory'
import { update, type UpdateOptions } from './update'
import { why, type WhyOptions } from './planWhy'
import { Command, CommanderError } from 'commander'
import { IANAZone } from 'luxon'
import { type FileOptions } from './barFiles'
import { breadth, type BreadthOptions } from './breadth'
import { EXIT, Failure, note } from './fail'
import { failureOf } from './failureOf'
import { hits, type HitsOptions } from './hits'
import { indicators, type IndicatorsOptions } from './indicators'
import { carry, difference, plan } from './plan'
import { arm, run, type RunOptions } from './planRun'
import { check, type CheckOptions } from './planCheck'
import { status, stop, tell } from './planStatus'
import { scan, type ScanOptions } from './scan'
import {
  cancel,
  type CancelOptions,
  id,
  orders,
  type OrdersOptions,
  positions,
  replace,
  type ReplaceOptions,
  send,
  type SendOptions,
  stream,
  type StreamOptions,
  type TradingOptions,
  whoami,
} from './trading'

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

function yesOrNo(value: string): boolean {
  if (value === 'yes' || value === 'no') return value === 'yes'
  throw new Failure(`"${value}" is neither yes nor no.`, EXIT.usage)
}

interface PointsOptions {
  folder: string
  reason?: string
  validUntil?: string
}

const ZONE = ['--zone <zone>', 'zone of times that name none', zoneName, 'UTC'] as const

const EVERY = ['--every <timeframe>', 'make the bars into longer ones first, such as "1 week"'] as const
const AMONG = ['--among <symbols>', 'only these: symbols between commas, or @file with a list'] as const
const COLUMNS = ['--columns <fields>', 'columns by name or number: date=Datum,close="Close/Last"'] as const
const INDEX = ['--index <symbol>', 'which security beside("index", x) means'] as const

function program(print: (text: string) => void): Command {
  const heron = new Command('heron')
    .description('Rules and measures over your own bars, and orders, without a browser.')
    .showHelpAfterError('Run heron --help to see how it is used.')
    .addHelpText(
      'after',
      `
Bars are CSV or text files, or a ZIP of them: date, open, high, low, close, volume, and a symbol column where one
file holds several securities. Columns are found by their names, or by what they hold; --columns says which is
which. - reads standard input. Results go to standard output as CSV, remarks to standard
error. Exit code: 0 done, 1 a file could not be used, 2 the command line or an expression is wrong,
3 the broker's records cannot be explained, 4 the plan runs already.

  heron indicators --bars OSPRY.csv --expr "sma(close, 20)" --expr "bollinger(close, 20, 2).upper"
  heron scan --rule "close crosses above sma(close, 50)" --bars bars/ --measure "rsi(14)"
  heron scan --rule "strength(close, beside(\"index\", close), 63) > 5%" --bars bars/ --index BWALL --every "1 week"
  heron hits --rule "rsi(14) crosses above 34" --bars bars/ --among @mylist.csv
  heron breadth --bars bars/ --last 20
  heron indicators --list average
  heron orders --symbol OSPRY
  heron run my-plan.json --arm
  heron send --order '{"clOrdId":"a-1","symbol":"OSPRY","side":"Buy","orderQty":10,"ordType":"Market"}' --send`,
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
  trading(heron, print)
  return heron
}

const number = (value: string): number => {
  if (Number(value) > 0) return Number(value)
  throw new Failure(`"${value}" is not a number above nought.`, EXIT.usage)
}

/** Commands that speak to the broker. */
function trading(heron: Command, print: (text: string) => void): void {
  const command = (name: string, description: string) =>
    heron
      .command(name)
      .description(description)
      .option('--broker <url>', 'where it is', process.env.HERON_BROKER_URL ?? 'http://127.0.0.1:4312')
      .option('--key-file <file>', 'key and secret as JSON', '.heron/broker/paper-key.json')
      .option('--live', 'the live stand-in instead of paper; needs a live key')
      .option('--world <world>', 'a rehearsal instead, such as rehearsals/march')
      .option('--account <account>', 'which account, where the key speaks for several')
  const SEND = ['--send', 'do it; without this it is checked and printed'] as const
  command('whoami', 'says which key asks, for which account, and what it may do').action(
    async (options: TradingOptions) => print(await whoami(options)),
  )
  command('orders', 'prints orders as CSV: all of today, whatever their state')
    .option('--which <which>', 'today, working or all')
    .option('--symbol <symbol>', 'of this security')
    .option('--status <status>', 'in this state, such as Filled')
    .option('--from <moment>', 'entered at this date or moment or later')
    .option('--to <moment>', 'entered on this date or before this moment')
    .option('--begins <text>', 'whose client order id begins so')
    .action(async (options: OrdersOptions) => print(await orders(options)))
  command('positions', 'prints what is held as CSV').action(async (options: TradingOptions) =>
    print(await positions(options)),
  )
  command('send', 'checks an order; with --send sends it')
    .requiredOption('--order <json>', 'the order as JSON, a file of it, or -')
    .option(...SEND)
    .option('--sure', 'send it although its price is questioned')
    .action(async (options: SendOptions) => print(await send(options)))
  command('replace <id>', 'changes a working order')
    .option('--id <id>', 'client order id after the change')
    .option('--quantity <shares>', 'in all, with what is filled', number)
    .option('--price <price>', 'limit price', number)
    .option('--stop <price>', 'stop price', number)
    .option(...SEND)
    .action(async (id: string, options: ReplaceOptions) => print(await replace(id, options)))
  command('cancel [id]', 'cancels one order, or all that are meant')
    .option('--symbol <symbol>', 'all working orders of this security')
    .option('--begins <text>', 'all whose client order id begins so')
    .option('--all', 'all working orders')
    .option(...SEND)
    .action(async (id: string | undefined, options: CancelOptions) => print(await cancel(id, options)))
  command('stream', 'prints execution reports as they happen, a JSON document a line')
    .option('--after <seq>', 'begin after this report; 0 is before the first', Number)
    .option('--until <seq>', 'end with this report', Number)
    .option('--for <seconds>', 'end after so long', number)
    .action(async (options: StreamOptions) => print(await stream(options, print)))
  heron
    .command('plan <file>')
    .description('reads a plan aloud, and says what is wrong with it')
    .option('--against <file>', 'another version: prints what is said differently')
    .action((file: string, { against }: { against?: string }) =>
      print(against === undefined ? plan(file) : difference(file, against)),
    )
  heron
    .command('carry <plan> <bars...>')
    .description(
      'prints a plan with bars of your own in it, from CSV files, as far as its rule text reads them',
    )
    .option(...ZONE)
    .option(...COLUMNS)
    .action((file: string, bars: string[], options: FileOptions) => print(carry(file, bars, options)))
  const FOLDER = ['--folder <folder>', 'where journals and signs of life are kept', '.heron/plans'] as const
  const running = (name: string, text: string) =>
    command(name, text)
      .option(...FOLDER)
      .option('--for <seconds>', 'end after so long', number)
      .option('--events <file>', 'a CSV file of events: key, symbol, at, text; it may grow')
      .option('--now', 'what holds when it begins counts as beginning then')
  running(
    'run <plans...>',
    'runs plans in one account until they are ended: they watch, and with --arm they send',
  )
    .option('--arm', 'send what it wants; without this it only says so')
    .action(async (files: string[], options: RunOptions) => print(await run(files, options, print)))
  running('arm <plans...>', 'says what plans could do in a day at most, asks, and runs them armed')
    .option('--yes', 'do not ask')
    .action(async (files: string[], options: RunOptions & { yes?: boolean }) =>
      print(await arm(files, options, print)),
    )
  command('check <plan>', 'before the night: disk, key, rights, bars, streams, clock, latency')
    .option(...FOLDER)
    .action(async (file: string, options: CheckOptions) => print(await check(file, options)))
  command(
    'update <plans...>',
    'before a session: runs the searches of plans, and keeps bars of what they look at as files',
  )
    .option('--bars <folder>', 'where bars are kept, a CSV file a security and timeframe')
    .option('--limit <bars>', 'bars of each; 2000 where left out', number)
    .action(async (files: string[], options: UpdateOptions) => print(await update(files, options, print)))
  heron
    .command('status')
    .description('what the plans of a folder are doing, with the times of their orders')
    .option(...FOLDER)
    .action(({ folder }: { folder: string }) => print(status(folder)))
  command('why <plan> <symbol> <time>', 'why a plan did, or did not, order a security at a time of a session')
    .option(...FOLDER)
    .option('--date <date>', 'the session; today’s where left out')
    .action(async (file: string, symbol: string, time: string, options: WhyOptions) =>
      print(await why(file, symbol, time, options)),
    )
  heron
    .command('stop <plans...>')
    .description('ends running plans; what is held stays, with its stops and targets at the broker')
    .option(...FOLDER)
    .action(async (planIds: string[], { folder }: { folder: string }) => print(await stop(folder, planIds)))
  heron
    .command('memory <plan>')
    .description('prints a plan with all that it remembers as one file, to go on with it elsewhere')
    .option(...FOLDER)
    .action((planId: string, { folder }: { folder: string }) => print(memory(folder, planId)))
  heron
    .command('answer <plan> <order> <answer>')
    .description('yes or no to an order that a running plan asks about')
    .option(...FOLDER)
    .action((planId: string, clOrdId: string, answer: string, { folder }: { folder: string }) =>
      print(tell(folder, planId, { is: 'answer', clOrdId, yes: yesOrNo(answer) })),
    )
  heron
    .command('view <plan> <view>')
    .description('up, down or neither: what you think of the day, for a running plan that asks')
    .option('--note <text>', 'why')
    .option(...FOLDER)
    .action((planId: string, view: string, { folder, note: why }: { folder: string; note?: string }) =>
      print(
        tell(folder, planId, { is: 'view', view: `${view[0].toUpperCase()}${view.slice(1)}`, note: why }),
      ),
    )
  heron
    .command('seen <plan> <key> <became>')
    .description(
      'seen, declined, ordered or filled: what became of something in the seen book of a running plan',
    )
    .option('--note <text>', 'why')
    .option(...FOLDER)
    .action(
      (
        planId: string,
        key: string,
        became: string,
        { folder, note: why }: { folder: string; note?: string },
      ) =>
        print(
          tell(folder, planId, {
            ...{ is: 'seen', key, note: why },
            became: `${became[0].toUpperCase()}${became.slice(1)}`,
          }),
        ),
    )
  heron
    .command('points <plan> <key> <line> <points>')
    .description('points for a line of the score card of a running plan')
    .option('--reason <text>', 'why')
    .option('--valid-until <moment>', 'with an offset: 2026-03-16T15:00:00-03:00')
    .option(...FOLDER)
    .action((planId: string, key: string, line: string, points: string, options: PointsOptions) => {
      const { folder, reason, validUntil } = options
      const at = new Date().toISOString()
      print(tell(folder, planId, { is: 'points', key, line, points: Number(points), at, reason, validUntil }))
    })
  heron
    .command('id <parts...>')
    .description('makes a client order id of program, security, session and signal')
    .action((parts: string[]) => print(id(parts)))
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
    const asked = heron.commands.find((one) => one.name() === argv[2])
    const { message, exit } = failureOf(error, asked?.opts<Partial<TradingOptions>>().broker)
    note(message)
    return exit
  }
}
