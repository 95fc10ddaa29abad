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
import { useSheet } from './sheetStore'

const NO_ROWS: never[] = []
const NONE: never[] = []

/** Market time; that of this machine before it is known. */
const marketNow = (): string => useLink.getState().clock?.now ?? new Date().toISOString()

/** The rows of the file in view, each priced and checked at the market as it stands. */
export function usePriced(): PricedRow[] {
  const { file, sent } = useSheet()
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
  return useMemo(
    () => priceRows(rows, { sent, securities, quotes, account, book, session, rates, now: marketNow() }),
    [rows, sent, securities, quotes, account, book, session, rates],
  )
}
