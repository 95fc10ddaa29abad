import { useMemo } from 'react'
import { type SheetColumn, type SheetRow } from '@/core/formats/orderSheet'
import { draftOrder, type OrderDraft } from '@/core/orders/draft'
import { type CheckCode } from '@/core/orders/model'
import { checkOrder } from '@/core/orders/check'
import { toE4 } from '@/core/market/money'
import {
  useAccount,
  useOrders,
  usePositions,
  useQuotes,
  useSecurities,
  useSession,
} from '../link/LinkProvider'
import { useLink } from '../link/useLink'
import { type PricedRow } from './columns'
import { useSheet } from './sheetStore'

/** Cells in which the reason of a failed check lies. */
const CELLS: Partial<Record<CheckCode, (order: OrderDraft) => SheetColumn>> = {
  security: () => 'symbol',
  quantity: () => 'quantity',
  'shares-held': () => 'quantity',
  'client-order-id': () => 'id',
  tick: (order) => (order.price !== undefined ? 'price' : order.stopPx !== undefined ? 'trigger' : 'stop'),
}

/** A reason at its cell, or at the row where it is about all of it. */
function placed(row: SheetRow, why: string, code: CheckCode): Pick<PricedRow, 'errors' | 'state' | 'why'> {
  const column = CELLS[code]?.(row.order!)
  return column
    ? { state: 'wrong', errors: { ...row.errors, [column]: { code: 'check', sentence: why } } }
    : { state: 'wrong', errors: row.errors, why }
}

const NO_ROWS: never[] = []

/** The rows of the file in view, each priced and checked at the market as it stands. */
export function usePriced(): PricedRow[] {
  const { file, sent } = useSheet()
  const rows = file?.sheet.rows ?? NO_ROWS
  const symbols = useMemo(() => [...new Set(rows.flatMap((row) => row.order?.symbol ?? []))], [rows])
  const securities = useSecurities().data
  const known = useMemo(() => new Map((securities ?? []).map((s) => [s.symbol, s])), [securities])
  const quotes = useQuotes(useMemo(() => symbols.filter((s) => known.has(s)), [symbols, known]))
  const account = useAccount().data
  const positions = usePositions().data
  const orders = useOrders('all').data
  const session = useSession().data
  const open = useLink((s) => s.clock?.session === 'Open')
  return useMemo(() => {
    const standing = new Set((orders ?? []).filter((o) => o.ordStatus !== 'Rejected').map((o) => o.clOrdId))
    let power = account?.buyingPower ?? 0
    // Shares that rows before a row would sell or cover already.
    const promised = new Map<string, number>()
    return rows.map((row): PricedRow => {
      const base = { line: row.line, cells: row.cells, errors: row.errors, clOrdId: row.order?.clOrdId }
      const outcome = sent[row.line]
      if (!row.order) return { ...base, state: 'wrong' }
      if (outcome?.is === 'refused')
        return {
          ...base,
          state: 'refused',
          why:
            outcome.problem.checks.length > 0 || outcome.problem.kind === 'unreachable'
              ? `${outcome.problem.detail} ${outcome.problem.mend}`
              : outcome.problem.detail,
        }
      if (outcome?.is === 'sending') return { ...base, state: 'sending' }
      if (standing.has(row.order.clOrdId))
        return { ...base, state: outcome?.is === 'sent' ? 'sent' : 'before' }
      const security = known.get(row.order.symbol)
      if (!security) {
        if (known.size === 0) return { ...base, state: 'waiting' }
        return { ...base, errors: { ...row.errors, symbol: { code: 'unlisted' } }, state: 'wrong' }
      }
      const quote = quotes[security.symbol]
      if (!account || !session || !quote) return { ...base, state: 'waiting' }
      const sharesHeld = positions?.find((p) => p.symbol === security.symbol)?.quantity ?? 0
      const facts = { security, bid: quote.bid, ask: quote.ask, last: quote.last, sharesHeld }
      const drafted = draftOrder(row.order, { ...facts, equity: account.equity, buyingPower: power })
      if ('why' in drafted) return { ...base, state: 'wrong', why: drafted.why }
      const failed = checkOrder(drafted.order, {
        ...facts,
        near: [],
        session: { open, venue: session.name, opens: session.opens.slice(11, 16) },
        currency: account.currency,
        clOrdIdTaken: false,
        promised: promised.get(`${security.symbol} ${drafted.order.side === 'Sell' ? 'Sell' : 'Buy'}`) ?? 0,
        offeredShort: promised.get(`${security.symbol} SellShort`) ?? 0,
        buyingPowerE4: toE4(power),
      }).find((check) => check.verdict === 'fails')
      if (failed)
        return { ...base, ...placed(row, `${failed.sentence} ${failed.mend ?? ''}`, failed.code), drafted }
      // Rows are sent in their order, so each leaves less for the next.
      power = drafted.buyingPowerAfter
      const closes = `${security.symbol} ${drafted.order.side}`
      promised.set(closes, (promised.get(closes) ?? 0) + drafted.order.orderQty)
      return { ...base, state: 'ready', drafted }
    })
  }, [rows, sent, known, quotes, account, positions, orders, session, open])
}
