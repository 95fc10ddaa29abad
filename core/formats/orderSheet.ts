import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js'
import { type OrderDraft } from '../orders/draft'
import {
  hasLimit,
  hasStop,
  isAtOnce,
  isInAuction,
  type OrdType,
  type TimeInForce,
  waitsForPrice,
} from '../orders/model'
import { type Side } from '../orders/legs'
import { type ExitLevel, Exits, type Trail } from '../orders/exits'
import { type Sizing } from '../orders/size'
import { readNumber } from './numbers'
import { type Grid } from './csv'
import { type CellProblem, FileFailure } from './problems'

/** Columns of an orders file, one row an order. Only the first three are always needed. */
export const SHEET_COLUMNS = [
  'symbol',
  'side',
  'quantity',
  'type',
  'price',
  'trigger',
  'good for',
  'stop',
  'target',
  'id',
  'note',
] as const
export type SheetColumn = (typeof SHEET_COLUMNS)[number]

const OTHER_NAMES: Partial<Record<SheetColumn, readonly string[]>> = {
  symbol: ['ticker', 'security'],
  quantity: ['qty', 'shares', 'orderqty', 'size'],
  type: ['ordtype', 'order type'],
  price: ['limit', 'limit price'],
  trigger: ['stoppx', 'trigger price'],
  'good for': ['timeinforce', 'time in force', 'tif'],
  stop: ['stop loss', 'exit stop'],
  target: ['take profit', 'exit target'],
  id: ['clordid', 'client order id'],
  note: ['text', 'comment', 'memo'],
}

export interface SheetRow {
  line: number
  cells: Partial<Record<SheetColumn, string>>
  /** What is wrong, by cell. */
  errors: Partial<Record<SheetColumn, CellProblem>>
  order?: OrderDraft
}

export interface Sheet {
  rows: SheetRow[]
  /** Columns of the file that mean nothing here. */
  ignored: string[]
}

const plain = (name: string): string =>
  name
    .trim()
    .toLowerCase()
    .replace(/[_\s]+/g, ' ')

/** Reads orders from a file. Throws FileFailure where a needed column is missing; bad cells are in their rows. */
export function readSheet(grid: Grid): Sheet {
  const at = new Map<SheetColumn, number>()
  const ignored: string[] = []
  grid.columns.forEach((name, i) => {
    const column = SHEET_COLUMNS.find((c) => c === plain(name) || OTHER_NAMES[c]?.includes(plain(name)))
    if (column && !at.has(column)) at.set(column, i)
    else if (name !== '') ignored.push(name)
  })
  const missing = (['symbol', 'side', 'quantity'] as const).filter((column) => !at.has(column))
  if (missing.length > 0)
    throw new FileFailure({ code: 'columns_missing', columns: missing, known: SHEET_COLUMNS })
  const seen = new Map<string, number>()
  const rows = grid.rows.map(({ line, cells }): SheetRow => {
    const named = Object.fromEntries(
      [...at].map(([column, i]) => [column, cells[i] ?? '']),
    ) as SheetRow['cells']
    return readRow(line, named, seen)
  })
  flagRepeatedIds(rows)
  return { rows, ignored }
}

/** The same id twice in one file: the second would be refused, so it is marked before anything is sent. */
function flagRepeatedIds(rows: SheetRow[]): void {
  const first = new Map<string, number>()
  for (const row of rows) {
    const id = row.cells.id
    if (!id) continue
    const line = first.get(id)
    if (line === undefined) first.set(id, row.line)
    else {
      row.errors.id = { code: 'repeated_id', line }
      row.order = undefined
    }
  }
}

function readRow(line: number, cells: SheetRow['cells'], seen: Map<string, number>): SheetRow {
  const errors: SheetRow['errors'] = {}
  const take = <T>(column: SheetColumn, read: (text: string) => T | Wrong): T | undefined => {
    const value = read((cells[column] ?? '').trim())
    if (value && typeof value === 'object' && 'wrong' in value) {
      errors[column] = value.wrong
      return undefined
    }
    return value as T
  }
  const symbol = take<string>('symbol', (text) =>
    /^[A-Za-z0-9.]{1,12}$/.test(text)
      ? text.toUpperCase()
      : { wrong: text === '' ? { code: 'empty', field: 'symbol' } : { code: 'no_symbol', text } },
  )
  const side = take('side', readSide)
  const sizing = take('quantity', readSizing)
  const ordType = take('type', readType)
  const price = take('price', (text) => readPrice(text, ordType !== undefined && hasLimit(ordType), 'Limit'))
  const trails = ordType === 'TrailingStop'
  const trail = trails ? take('trigger', readTrail) : undefined
  const stopPx = trails
    ? undefined
    : take('trigger', (text) => readPrice(text, ordType !== undefined && hasStop(ordType), 'Stop'))
  const goodFor = take('good for', (text) => readGoodFor(text, ordType))
  const stop = take('stop', readExit)
  const target = take('target', readExit)
  const givenId = take<string>('id', (text) =>
    text === '' || /^[A-Za-z0-9._:-]{1,64}$/.test(text) ? text : { wrong: { code: 'bad_id' } },
  )
  const note = take<string>('note', (text) =>
    text.length <= 200 ? text : { wrong: { code: 'too_long', limit: 200 } },
  )
  const exits = stop || target ? { stop: stop ?? undefined, target: target ?? undefined } : undefined
  const wrong = exits && Exits.safeParse(exits).error?.issues[0]
  if (wrong) errors[wrong.path[0] === 'target' ? 'target' : 'stop'] = { code: 'exits', why: wrong.message }
  if (sizing?.by === 'risk' && !stop && !errors.stop) errors.stop = { code: 'risk_without_stop' }
  if (Object.keys(errors).length > 0) return { line, cells, errors }
  const clOrdId = givenId || idOf(cells, seen)
  const order: OrderDraft = {
    clOrdId,
    symbol: symbol!,
    side: side!,
    sizing: sizing!,
    ordType: ordType!,
    price: price ?? undefined,
    stopPx: stopPx ?? undefined,
    trail,
    ...goodFor!,
    exits,
    text: note || undefined,
  }
  return { line, cells, errors, order }
}

/**
 * A client order id made of what the row says, so that the same row is the same order however often its file
 * is sent. Rows alike in one file are told apart by their count.
 */
function idOf(cells: SheetRow['cells'], seen: Map<string, number>): string {
  const words = SHEET_COLUMNS.filter((column) => column !== 'id').map((column) =>
    (cells[column] ?? '').trim().toLowerCase(),
  )
  const hash = bytesToHex(sha256(utf8ToBytes(JSON.stringify(words)))).slice(0, 20)
  const count = (seen.get(hash) ?? 0) + 1
  seen.set(hash, count)
  return `sheet-${hash}-${count}`
}

type Wrong = { wrong: CellProblem }

function readSide(text: string): Side | Wrong {
  const side = {
    buy: 'Buy',
    sell: 'Sell',
    'sell short': 'SellShort',
    sellshort: 'SellShort',
    short: 'SellShort',
  }[text.toLowerCase()]
  return side
    ? (side as Side)
    : { wrong: text === '' ? { code: 'empty', field: 'side' } : { code: 'no_side', text } }
}

function readType(text: string): OrdType | Wrong {
  const type = {
    '': 'Market',
    market: 'Market',
    limit: 'Limit',
    stop: 'Stop',
    'stop limit': 'StopLimit',
    stoplimit: 'StopLimit',
    trailing: 'TrailingStop',
    'trailing stop': 'TrailingStop',
    trailingstop: 'TrailingStop',
  }[text.toLowerCase()]
  return type ? (type as OrdType) : { wrong: { code: 'no_type', text } }
}

const GOOD_FOR: Record<Exclude<TimeInForce, 'GoodTillDate'>, readonly string[]> = {
  Day: ['', 'day', 'the day', 'today'],
  GoodTillCancel: ['goodtillcancel', 'gtc', 'until canceled', 'until cancelled', 'good till cancel'],
  ImmediateOrCancel: ['immediateorcancel', 'ioc', 'immediate or cancel'],
  FillOrKill: ['fillorkill', 'fok', 'fill or kill'],
  AtTheOpening: ['attheopening', 'at the opening', 'opening'],
  AtTheClose: ['attheclose', 'at the close', 'close'],
}

type GoodFor = Pick<OrderDraft, 'timeInForce' | 'expireDate' | 'expireSessions'>

/** "day", "GoodTillCancel", "2026-04-17", "5 sessions", "at the close". */
function readGoodFor(text: string, type: OrdType | undefined): GoodFor | Wrong {
  if (/^\d{4}-\d{2}-\d{2}$/.test(text)) return { timeInForce: 'GoodTillDate', expireDate: text }
  const sessions = Number(/^(\d{1,3}) sessions?$/i.exec(text)?.[1])
  if (sessions >= 1 && sessions <= 250) return { timeInForce: 'GoodTillDate', expireSessions: sessions }
  const good = Object.entries(GOOD_FOR).find(([, names]) => names.includes(text.toLowerCase()))?.[0]
  if (!good) return { wrong: { code: 'no_time_in_force', text } }
  const timeInForce = good as TimeInForce
  if (type && waitsForPrice(type) && (isAtOnce(timeInForce) || isInAuction(timeInForce)))
    return { wrong: { code: 'waits_and_at_once' } }
  return { timeInForce }
}

/** How far a trailing stop stays behind: "2%" or "0.45". */
function readTrail(text: string): Trail | Wrong {
  const [, amount, percent] = /^\$?([\d.,]+)\s*(%?)$/.exec(text) ?? []
  const value = amount === undefined ? NaN : readNumber(amount)
  if (!(value > 0) || (percent && value >= 100)) return { wrong: { code: 'no_trail', text } }
  return percent ? { percent: value } : { amount: value }
}

function readPrice(text: string, wanted: boolean, type: string): number | Wrong | undefined {
  if (text === '') return wanted ? { wrong: { code: 'price_needed', type } } : undefined
  if (!wanted) return { wrong: { code: 'price_unused', type } }
  const price = readNumber(text)
  return price > 0 ? price : { wrong: { code: 'no_price', text } }
}

/** "100", "0.8% risk", "10% equity". */
function readSizing(text: string): Sizing | Wrong {
  const share = /^([\d.,]+)\s*%\s*(risk|equity)$/i.exec(text)
  if (share) {
    const percentOfEquity = readNumber(share[1])
    if (!(percentOfEquity > 0 && percentOfEquity <= 100)) return { wrong: { code: 'share_range' } }
    return { by: share[2].toLowerCase() as 'risk' | 'equity', percentOfEquity }
  }
  const shares = readNumber(text)
  if (Number.isInteger(shares) && shares > 0) return { by: 'shares', shares }
  if (shares > 0) return { wrong: { code: 'not_whole_shares', text } }
  return { wrong: text === '' ? { code: 'empty', field: 'quantity' } : { code: 'no_quantity', text } }
}

/** "3%", "40 ticks", "$47.80", "0.75 a share", "150 in all", "2.5R" of a target, "trailing 3%" of a stop. */
function readExit(text: string): ExitLevel | Wrong | undefined {
  if (text === '') return undefined
  const trailing = /^trailing\s+(.*)$/i.exec(text)?.[1]
  if (trailing !== undefined) {
    const trail = readTrail(trailing)
    return 'wrong' in trail ? trail : { trail }
  }
  const [, dollar, amount, unit] = /^(\$?)\s*([\d.,]+)\s*(%|ticks?|r|a share|in all)?$/i.exec(text) ?? []
  const value = amount === undefined ? NaN : readNumber(amount)
  if (!(value > 0)) return { wrong: { code: 'no_exit', text } }
  switch (unit?.toLowerCase()) {
    case undefined:
      return dollar ? { price: value } : { wrong: { code: 'exit_unit', text } }
    case 'a share':
      return { amount: value }
    case 'in all':
      return { total: value }
  }
  if (dollar) return { wrong: { code: 'exit_unit', text } }
  if (unit === '%') return value < 100 ? { percent: value } : { wrong: { code: 'percent_range' } }
  if (/^r$/i.test(unit!)) return { risk: value }
  return Number.isInteger(value) ? { ticks: value } : { wrong: { code: 'ticks_whole' } }
}

/** Rows of a template that shows what can be written; made-up securities of the stand-in market. */
export const SHEET_TEMPLATE: readonly (readonly string[])[] = [
  ['OSPRY', 'buy', '0.8% risk', 'market', '', '', 'day', '3%', '7%', '', 'sized by what is lost at the stop'],
  [
    'GANET',
    'buy',
    '10',
    'limit',
    '190.50',
    '',
    'GoodTillCancel',
    '$180.00',
    '$210.00',
    '',
    'rests until it is filled or canceled',
  ],
  [
    'KELPR',
    'sell short',
    '5% equity',
    'market',
    '',
    '',
    'day',
    '40 ticks',
    '',
    '',
    'distance in ticks from the fill',
  ],
]
