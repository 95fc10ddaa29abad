import { sayBar } from '@/core/market/moments'
import { describe, expect, it } from '@jest/globals'
import { readSheet } from '@/core/formats/orderSheet'
import { sayFailure } from '@/workers/say'
import { readCsv } from '@/core/formats/csv'
import { type Order } from '@/core/orders/model'
import { thinned } from '@/core/market/thin'
import { barsOf } from '@/tests/bars'
import { executionsOf, orderFileColumns } from './desk/columns'
import { orderText } from './desk/orderText'
import { chainText } from './desk/Chain'
import { chartOption, type Line, type Drawn } from './look/chartOption'
import { type Inks } from './look/inks'
import { clockText, minuteOfDay, spanText } from './shell/marketTime'
import { sheetColumns, type PricedRow } from './sheet/columns'
import { FILE_LIMIT, readFile } from './sheet/readFile'
import { exportTable, workbook } from './table/exportTable'
import { type OrderDraft } from '@/core/orders/draft'
import { draftOf } from './ticket/ticketDraft'
import { splitPart, type Ticket, type TicketPart, useTicket, withoutPart } from './ticket/ticketStore'

const order = (part: Partial<Order> = {}): Order => ({
  orderId: 'O1',
  clOrdId: 'desk-1',
  symbol: 'OSPRY',
  side: 'Buy',
  orderQty: 1240,
  ordType: 'Limit',
  price: 48.21,
  timeInForce: 'Day',
  ordStatus: 'Filled',
  cumQty: 1240,
  leavesQty: 0,
  avgPx: 48.19,
  role: 'Entry',
  enteredTime: '2026-03-16T10:31:02-03:00',
  transactTime: '2026-03-16T10:31:05-03:00',
  tradeDate: '2026-03-16',
  lastSeq: 3,
  chain: [
    { execId: 'E1', ordStatus: 'New', execType: 'New', at: '2026-03-16T10:31:02-03:00', cumQty: 0 },
    {
      execId: 'E2',
      ordStatus: 'PartiallyFilled',
      execType: 'Trade',
      at: '2026-03-16T10:31:03-03:00',
      lastQty: 100,
      lastPx: 48.18,
      commission: 0.5,
      cumQty: 100,
    },
    {
      execId: 'E10',
      ordStatus: 'PartiallyFilled',
      execType: 'Trade',
      at: '2026-03-16T10:31:05-03:00',
      lastQty: 500,
      lastPx: 48.19,
      commission: 2.5,
      cumQty: 600,
    },
    {
      execId: 'E9',
      ordStatus: 'Filled',
      execType: 'Trade',
      at: '2026-03-16T10:31:05-03:00',
      lastQty: 640,
      lastPx: 48.2,
      commission: 3.2,
      cumQty: 1240,
    },
  ],
  ...part,
})

describe('the ticket', () => {
  const ticket = (part: Partial<Ticket> = {}): Ticket => {
    useTicket.getState().close()
    useTicket.getState().open('OSPRY')
    useTicket.getState().change(part)
    return useTicket.getState().ticket!
  }
  type Said = Partial<Ticket & Pick<TicketPart, 'stop' | 'stopUnit' | 'target' | 'targetUnit'>>
  /** The draft of a ticket whose only way out is as it opens, but for what is said. */
  const draft = ({ stop, stopUnit, target, targetUnit, ...part }: Said) => {
    const [only] = ticket().parts
    const said = { stop, stopUnit, target, targetUnit }
    const parts = [{ ...only, ...JSON.parse(JSON.stringify(said)) }]
    return draftOf(ticket({ parts, ...part })) as { draft?: OrderDraft; why?: string }
  }

  it('begins with 0.8 % at risk, a stop at 3 % and a target at 7 %', () => {
    expect(draft({}).draft).toMatchObject({
      side: 'Buy',
      sizing: { by: 'risk', percentOfEquity: 0.8 },
      exits: { stop: { percent: 3 }, target: { percent: 7 } },
    })
  })

  it.each([
    [{ size: '' }, 'Fill in the size'],
    [{ size: '-3' }, 'Fill in the size'],
    [{ ordType: 'Limit' }, 'Fill in the limit price'],
    [{ stop: 'three' }, 'The stop “three” is not a number above nought'],
    [{ target: '7,5' }, 'The target “7,5” is not a number'],
  ] as const)('%j: %s', (part, why) => expect(draft(part).why).toContain(why))

  it('an empty exit is an order without it; ticks are whole', () => {
    expect(draft({ stop: '', sizeBy: 'shares', size: '10' }).draft!.exits).toEqual({ target: { percent: 7 } })
    expect(draft({ stop: '40.4', stopUnit: 'ticks' }).draft!.exits!.stop).toEqual({ ticks: 40 })
    expect(draft({ stop: '', target: '', sizeBy: 'shares', size: '1' }).draft).not.toHaveProperty('exits')
  })

  it('is left in parts: each further one for half of the rest, the last for what is left', () => {
    const [only] = ticket().parts
    const three = splitPart(splitPart([only]))
    expect(three.map(({ share }) => share)).toEqual(['50', '25', ''])
    expect(withoutPart(three, 2).map(({ share }) => share)).toEqual(['50', ''])
    const level = { stop: { percent: 3 }, target: { percent: 7 } }
    expect(draft({ parts: three }).draft!.exits).toEqual({
      parts: [{ share: 50, ...level }, { share: 25, ...level }, level],
    })
    expect(draft({ parts: [{ ...only, share: '100' }, only] }).why).toContain('below 100')
    expect(draft({ parts: [{ ...only, share: '0' }, only] }).why).toContain('how many percent')
    expect(
      draft({
        parts: [
          { ...only, share: '40' },
          { ...only, stop: '', target: '' },
        ],
      }).why,
    ).toBe('Part 2 of the exits: give a stop, a target or both.')
  })

  it('may wait for another order, and end with others; a wrong side is only named where there can be one', () => {
    expect(draft({ after: 'first', link: 'pair' }).draft).toMatchObject({
      triggerClOrdId: 'first',
      clOrdLinkId: 'pair',
    })
    expect(draft({ wrongSide: 'Refuse' }).draft!.exits).not.toHaveProperty('wrongSide')
    const priced = { wrongSide: 'Refuse', stop: '45', stopUnit: 'price' } as const
    expect(draft(priced).draft!.exits).toMatchObject({ wrongSide: 'Refuse', stop: { price: 45 } })
  })

  it('selling what is held takes no exits', () => {
    expect(draft({ direction: 'close', sizeBy: 'shares', size: '5', stop: 'x' }).draft).toMatchObject({
      side: 'Sell',
    })
    expect(draft({ direction: 'short' }).draft!.side).toBe('SellShort')
  })

  it('prices of one security are not carried to another; distances are', () => {
    ticket({
      parts: [{ share: '', stop: '51.5', stopUnit: 'price', target: '90', targetUnit: 'ticks' }],
      ...{ price: '50', ordType: 'Limit', after: 'another', link: 'pair' },
    })
    useTicket.getState().open('GANET')
    expect(useTicket.getState().ticket).toMatchObject({
      parts: [{ stop: '3', stopUnit: 'percent', target: '90', targetUnit: 'ticks' }],
      ...{ price: '', ordType: 'Limit', after: '', link: '' },
    })
  })

  it('has an id of its own for each security, kept while it is written, new after it was sent', () => {
    const first = ticket().clOrdId
    useTicket.getState().change({ size: '1' })
    expect(useTicket.getState().ticket!.clOrdId).toBe(first)
    useTicket.getState().open('OSPRY')
    expect(useTicket.getState().ticket!.clOrdId).toBe(first)
    useTicket.getState().renew()
    expect(useTicket.getState().ticket!.clOrdId).not.toBe(first)
    useTicket.getState().open('GANET')
    expect(useTicket.getState().ticket).toMatchObject({ symbol: 'GANET', size: '1', price: '' })
  })
})

describe('orders in words', () => {
  it('what it was and what became of it', () => {
    expect(orderText(order())).toBe('Buy 1,240 Limit 48.21')
    expect(orderText(order({ ordType: 'StopLimit', price: 48.3, stopPx: 48.21 }))).toBe(
      'Buy 1,240 StopLimit 48.21, limit 48.30',
    )
    expect(orderText(order({ side: 'SellShort', ordType: 'Stop', price: undefined, stopPx: 0.4567 }))).toBe(
      'Sell short 1,240 Stop 0.4567',
    )
    expect(chainText(order())).toBe('New > PartiallyFilled 600 > Filled 48.19')
  })

  it('fills are listed newest first, each once', () => {
    expect(executionsOf([order()]).map((e) => [e.execId, e.lastQty])).toEqual([
      ['E10', 500],
      ['E9', 640],
      ['E2', 100],
    ])
  })

  it('a file of orders has every field on its own', () => {
    const fields = Object.fromEntries(orderFileColumns.map((c) => [c.header, c.value(order())]))
    expect(fields).toMatchObject({
      clOrdId: 'desk-1',
      orderQty: 1240,
      price: 48.21,
      ordStatus: 'Filled',
      avgPx: 48.19,
      stopPx: undefined,
    })
  })
})

describe('time in words', () => {
  it('stays exchange time whatever zone the browser is in', () => {
    expect(clockText('2026-03-16T10:42:07-03:00', true)).toBe('10:42:07')
    expect(minuteOfDay('2026-03-16T10:42:30-03:00')).toBe(642.5)
  })
  it.each([
    [30_000, 'under a minute'],
    [42 * 60_000, '42 min'],
    [5 * 3_600_000, '5 h'],
    [5 * 3_600_000 + 18 * 60_000 + 59_000, '5 h 18 min'],
  ])('%d ms: %s', (ms, text) => expect(spanText(ms)).toBe(text))
})

describe('the chart', () => {
  const inks: Inks = {
    ink: 'ink',
    soft: 'soft',
    line: 'line',
    paper: 'paper',
    up: 'up',
    down: 'down',
    accent: 'accent',
    value: 'value',
    amber: 'amber',
  }
  const bars = barsOf([10, 11, NaN, 9])
  const line = (unit: Line['unit'], text: string): Line => ({
    text,
    unit,
    values: Float64Array.of(NaN, 1, 2, 3),
    dash: 'solid',
    color: 'accent',
  })
  type Series = { name: string; type: string; data: unknown[]; yAxisIndex?: number }
  const drawn: Drawn = {
    lines: [line('price', 'sma'), line('number', 'rsi'), line('shares', 'usual')],
    hits: [1],
    against: [],
    levels: [{ name: 'stop', price: 9.5 }],
    drawings: [{ id: 'd', kind: 'level', name: 'shelf', price: 10.5 }],
    marks: [{ kind: 'fill', row: 3, price: 9.2, side: 'Buy', said: 'bought' }],
    spots: [],
  }
  const option = chartOption(thinned(bars, 0, 4, 900), bars, drawn, inks, false).option as {
    series: Series[]
    grid: unknown[]
    xAxis: { data: string[] }[]
  }

  it('draws prices over the candles, volumes with volume, anything else in a panel of its own', () => {
    const at = Object.fromEntries(option.series.map((s) => [s.name, s.yAxisIndex ?? 0]))
    expect(at).toMatchObject({ price: 0, sma: 0, 'the rule came true': 0, volume: 1, usual: 1, rsi: 2 })
    expect(option.grid).toHaveLength(3)
  })

  it('leaves unknown values out, and marks hits under their bars', () => {
    const data = (name: string) => option.series.find((s) => s.name === name)!.data
    expect(data('price')[2]).toEqual([11, '-', '-', '-'])
    expect(data('sma')).toEqual(['-', 1, 2, 3])
    expect(data('the rule came true')).toEqual([[1, bars.low[1]]])
    expect(option.xAxis[0].data[0]).toBe(sayBar(bars, 0))
  })

  it('of several bars drawn as one it moves marks with them, and leaves out what is not in view', () => {
    const view = thinned(bars, 2, 4, 1)
    const thin = chartOption(view, bars, drawn, inks, true).option as { series: Series[] }
    const data = (name: string) => thin.series.find((s) => s.name === name)!.data
    expect(data('price')).toHaveLength(1)
    expect(data('the rule came true')).toEqual([])
    expect(data('orders, fills and events')).toMatchObject([{ value: [0, 9.2] }])
  })
})

describe('the sheet', () => {
  const { rows } = readSheet(readCsv('symbol,side,quantity,stop\nOSPRY,buy,10,3%\nGANET,buy,ten,\n'))
  const priced: PricedRow[] = rows.map((row) => ({
    line: row.line,
    cells: row.cells,
    errors: row.errors,
    clOrdId: row.order?.clOrdId,
    state: row.order ? 'ready' : 'wrong',
  }))
  const column = (id: string, orders: Order[] = []) => sheetColumns(orders, priced).find((c) => c.id === id)!

  it('shows the columns that the file fills in, and no others', () => {
    expect(sheetColumns([], priced).map((c) => c.id)).toEqual([
      'line',
      'symbol',
      'side',
      'quantity',
      'stop',
      'shares',
      'cost',
      'stop price',
      'target price',
      'state',
    ])
  })

  it('says at the end of a row what became of its order, or what is wrong with it', () => {
    const clOrdId = priced[0].clOrdId!
    const parent = order({ clOrdId, orderId: 'O7' })
    const stop = order({
      clOrdId: `${clOrdId}/stop`,
      orderId: 'O8',
      parentOrderId: 'O7',
      role: 'Stop',
      stopPx: 46.74,
      price: undefined,
    })
    expect(column('state').value(priced[1])).toContain('quantity: "ten": write 100')
    expect(column('state', [parent]).value(priced[0])).toBe('New > PartiallyFilled 600 > Filled 48.19')
    expect(column('stop price', [parent, stop]).value(priced[0])).toBe(46.74)
    expect(column('shares', [parent]).value(priced[0])).toBe(1240)
  })
})

describe('files', () => {
  const file = (name: string, ...parts: BlobPart[]) => new File(parts, name)

  it('CSV is read; too large, too long and binary workbooks are refused with what to do', async () => {
    expect((await readFile(file('a.csv', 'x,y\n1,2\n'))).rows).toEqual([{ line: 2, cells: ['1', '2'] }])
    const said = async (wrong: File) => sayFailure(await readFile(wrong).catch((error: unknown) => error))
    expect(await said(file('big.csv', new Uint8Array(FILE_LIMIT + 1)))).toContain(
      'at most 10 MB are read. Split it.',
    )
    expect(await said(file('long.csv', `x\n${'1\n'.repeat(5001)}`))).toContain('5,001 rows; at most 5,000')
    expect(await said(file('old.xls', Uint8Array.of(0xd0, 0xcf, 0x11, 0xe0)))).toContain(
      'Save it as .xlsx or .csv',
    )
  })

  it('a workbook that we write, we read: ECMA-376, first sheet, header in row 1', async () => {
    const blob = await workbook(
      'orders',
      ['symbol', 'quantity'],
      [
        ['OSPRY', 100],
        ['GANET', undefined],
      ],
    )
    const bytes = new Uint8Array(await blob.arrayBuffer())
    expect([bytes[0], bytes[1]]).toEqual([0x50, 0x4b])
  })
})

describe('tables as files', () => {
  it('figures have no digits that binary fractions made up', async () => {
    const saved: Blob[] = []
    Object.assign(globalThis, {
      document: { createElement: () => ({ click: () => undefined, remove: () => undefined, style: {} }) },
    })
    URL.createObjectURL = (blob) => (saved.push(blob as Blob), 'blob:x')
    URL.revokeObjectURL = () => undefined
    const rows = [{ x: 0.1 + 0.2 }, { x: 1.2 * 2887.35 }, { x: NaN }, { x: 123456.789012 }]
    await exportTable('t', 'csv', rows, [{ id: 'x', header: 'x', value: (row) => row.x }])
    expect(await saved[0].text()).toBe('x\r\n0.3\r\n3464.82\r\n\r\n123456.789012\r\n')
  })
})
