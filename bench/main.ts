import { benchBlock } from './block'
import { benchBook } from './book'
import { bundledBench } from './bundledBench'
import { benchIndicators, benchTick } from './indicators'
import { benchLoad } from './load'
import { benchLong } from './long'
import { type Line } from './measure'
import { benchOrder } from './order'
import { benchLargePage, benchPage } from './page'
import { benchQuotes } from './quotes'
import { benchRestart } from './restart'
import { benchLarge, benchScan } from './scan'
import { benchState } from './state'
import { benchTable } from './table'

/**
 * Prints one JSON line for each thing measured; ratios are to a baseline measured in the same run. Names after
 * `npm run bench --` choose: indicators, tick, state, scan, large, order, book, load, block, plans, page, quotes; table, restart, long,
 * plans-hour and large-page only where they are named.
 */
const BENCHES: Record<string, () => Line[] | Promise<Line[]>> = {
  scan: benchScan,
  indicators: benchIndicators,
  tick: benchTick,
  state: benchState,
  large: benchLarge,
  order: benchOrder,
  book: benchBook,
  load: benchLoad,
  block: benchBlock,
  table: benchTable,
  plans: () => bundledBench('plans'),
  'plans-hour': () => bundledBench('plans-hour'),
  page: benchPage,
  quotes: benchQuotes,
  'large-page': benchLargePage,
  restart: benchRestart,
  long: benchLong,
}

const asked = process.argv.slice(2)
const chosen =
  asked.length > 0
    ? asked
    : Object.keys(BENCHES).filter(
        (name) => !['table', 'large-page', 'restart', 'long', 'plans-hour'].includes(name),
      )
for (const name of chosen) {
  const bench = BENCHES[name]
  if (!bench) {
    console.error(`There is no bench "${name}". There are ${Object.keys(BENCHES).join(', ')}.`)
    process.exit(2)
  }
  for (const line of await bench()) console.log(JSON.stringify(line))
}
