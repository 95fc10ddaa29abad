import { useMemo } from 'react'
import { bookAsTold } from '@/core/book/asTold'
import { USUAL_RULES } from '@/core/orders/accountRules'
import {
  useAccount,
  useOrders,
  usePositions,
  useQuotes,
  useRates,
  useSecurities,
  useSession,
} from '../link/LinkProvider'
import { useLink } from '../link/useLink'
import { type PricedRow } from './columns'
import { priceRows } from './priceRows'
import { type Sent, useSheet } from './sheetStore'

const NO_ROWS: never[] = []
const NONE: never[] = []

/** Market time; that of this machine before it is known. */
const marketNow = (): string => useLink.getState().clock?.now ?? new Date().toISOString()

/** The rows of the file in view, each priced and checked at the market as it stands. */
export function usePriced(): PricedRow[] {
  const { file, sent, frozen } = useSheet()
  const rows = file?.sheet.rows ?? NO_ROWS
  const symbols = useMemo(() => [...new Set(rows.flatMap((row) => row.order?.symbol ?? []))], [rows])
  const listed = useSecurities().data
  const securities = useMemo(() => new Map((listed ?? []).map((s) => [s.symbol, s])), [listed])
  const quotes = useQuotes(useMemo(() => symbols.filter((s) => securities.has(s)), [symbols, securities]))
  const account = useAccount().data
  const positions = usePositions().data
  const orders = useOrders('all').data
  const rates = useRates().data
  const { name, opens } = useSession().data ?? {}
  const open = useLink((s) => s.clock?.session === 'Open')
  const book = useMemo(
    () =>
      bookAsTold(orders ?? [], positions ?? [], {
        rules: account?.rules ?? USUAL_RULES,
        stoodDown: account?.stoodDown ?? NONE,
        gates: account?.gates ?? NONE,
      }),
    [orders, positions, account?.rules, account?.stoodDown, account?.gates],
  )
  const session = useMemo(
    () => (name && opens ? { open, venue: name, opens: opens.slice(11, 16) } : undefined),
    [open, name, opens],
  )
  const now = useMemo(
    () =>
      frozen
        ? []
        : priceRows(rows, { sent, securities, quotes, account, book, session, rates, now: marketNow() }),
    [rows, sent, frozen, securities, quotes, account, book, session, rates],
  )
  // While rows are sent nothing is priced anew: only what became of each is noted.
  return useMemo(
    () => (frozen ? frozen.map((row) => withSent(row, sent[row.line])) : now),
    [frozen, sent, now],
  )
}

/** A row with what became of it. */
function withSent(row: PricedRow, sent: Sent | undefined): PricedRow {
  if (!sent || sent.is === row.state) return row
  return sent.is === 'refused'
    ? { ...row, state: 'refused', why: `${sent.problem.detail} ${sent.problem.mend}` }
    : { ...row, state: sent.is }
}
