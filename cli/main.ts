import { memory } from './planMemory'
import { update, type UpdateOptions } from './update'
import { why, type WhyOptions } from './planWhy'
import { Command, CommanderError } from 'commander'
import { type FileOptions } from './barFiles'
import { EXIT, note } from './fail'
import { failureOf } from './failureOf'
import { looking } from './looking'
import { COLUMNS, number, withBroker, yesOrNo, ZONE } from './options'
import { carry, difference, plan } from './plan'
import { arm, run, type RunOptions } from './planRun'
import { check, type CheckOptions } from './planCheck'
import { status, stop, tell } from './planStatus'
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

interface PointsOptions {
  folder: string
  reason?: string
  validUntil?: string
}

function program(print: (text: string) => void): Command {
  const heron = new Command('heron')
    .description(
      'Rules and measures over the broker’s market or your own bars, and orders, without a browser.',
    )
    .showHelpAfterError('Run heron --help to see how it is used.')
    .addHelpText(
      'after',
      `
Bars are CSV or text files, or a ZIP of them: date, open, high, low, close, volume, and a symbol column where one
file holds several securities. Columns are found by their names, or by what they hold; --columns says which is
which. - reads standard input. Where no file is named, the broker's market is asked. Results go to standard output as CSV, remarks to standard
error. Exit code: 0 done, 1 a file could not be used, 2 the command line or an expression is wrong,
3 the broker's records cannot be explained, 4 the plan runs already.

  heron indicators --bars OSPRY.csv --expr "sma(close, 20)" --expr "bollinger(close, 20, 2).upper"
  heron scan --rule "rsi(14) < 34 and volume > 200k" --every "1 hour"
  heron bars --among @mylist.csv --every "5 min" --from 2026-03-02 --to 2026-03-06
  heron scan --rule "close crosses above sma(close, 50)" --bars bars/ --measure "rsi(14)"
  heron scan --rule "strength(close, beside(\"index\", close), 63) > 5%" --bars bars/ --index BWALL --every "1 week"
  heron hits --rule "rsi(14) crosses above 34" --bars bars/ --among @mylist.csv
  heron breadth --bars bars/ --last 20
  heron indicators --list average
  heron orders --symbol OSPRY
  heron run my-plan.json --arm
  heron send --order '{"clOrdId":"a-1","symbol":"OSPRY","side":"Buy","orderQty":10,"ordType":"Market"}' --send`,
    )
  looking(heron, print)
  trading(heron, print)
  return heron
}

/** Commands that speak to the broker. */
function trading(heron: Command, print: (text: string) => void): void {
  const command = (name: string, description: string) =>
    withBroker(heron.command(name).description(description))
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
    .option('--sure', 'change it although its price is questioned')
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
