import { averagePrice } from '../book/book'
import { halfEven, toE4 } from '../market/money'
import { CONTRACT_MULTIPLIER, multiplierOf, underlyingOf } from '../options/osi'
import { directionOf } from '../orders/levels'
import { type ExecutionReport, isWorking } from '../orders/model'
import { sentFor } from '../plans/ids'
import { heldOf, type Shared } from './shared'
import { keyOf, type Prepared, sideOf, tellHeld } from './prepare'
import { type Held, type OwnOrder, type PlanState } from './state'
import { afterHand, handDid, handNote, isByHand, noteHand } from './byHand'
import { type HandDid, type Note } from './verdicts'
import { noteRefusal } from './refusals'
import { waitsUntil } from './unfilled'
import { unitsHeld } from './whole'

/** Ends of trades that are remembered of a security. */
const MOST_ENDED = 20

/** Takes what became of the plan's orders, and of exits that are attached to them; gives what it has to say of others'. */
export function takeReport(
  prepared: Prepared,
  state: PlanState,
  shared: Shared,
  report: ExecutionReport,
  live = false,
): Note | undefined {
  if (report.seq <= state.seq) return undefined
  state.seq = report.seq
  const { symbol } = report
  let note: Note | undefined
  if (report.splitRatio !== undefined) splitHeld(state, symbol, report.splitRatio)
  else {
    knowAgain(prepared, state, shared, report)
    const clOrdId = ownOf(state, report)
    const own = clOrdId === undefined ? undefined : state.orders[clOrdId]
    if (clOrdId !== undefined && own) {
      const did = handDid(own, report, live)
      if (report.parentOrderId === undefined) takeOwn(prepared, state, clOrdId, own, report)
      else takeExit(own, report)
      if (report.execType === 'Trade') takeTrade(prepared, state, shared, clOrdId, report)
      if (did) note = orderChanged(prepared, state, own, report, did)
    } else if (report.execType === 'Trade') return changedElsewhere(prepared, state, shared, report)
  }
  tellHeld(prepared, state, symbol)
  tellAccount(prepared, shared, symbol, Date.parse(report.transactTime))
  return note
}

/** A hand has moved or canceled an order of the plan. */
function orderChanged(
  prepared: Prepared,
  state: PlanState,
  own: OwnOrder,
  { orderId, transactTime }: ExecutionReport,
  did: HandDid,
): Note {
  noteHand(state, own.symbol, Date.parse(transactTime), did)
  // Unless it takes over, the order stays where the hand has put it.
  if (afterHand(prepared) !== 'TakeOver') (own.exits?.[orderId] ?? own).left = true
  const note = handNote(prepared, state, own.symbol, did)
  giveUp(prepared, state, own.symbol, Date.parse(transactTime))
  return note
}

/** Somebody else has traded what the plan holds: there may be less of it, or more that it takes over. */
function changedElsewhere(
  prepared: Prepared,
  state: PlanState,
  shared: Shared,
  report: ExecutionReport,
): Note | undefined {
  const { symbol, side, lastQty = 0, lastPx = 0, settlCurrFxRate = 1, transactTime } = report
  const own = state.held[symbol]
  const way = directionOf(side)
  const more = own && own.quantity !== 0 && Math.sign(own.quantity) === way && !own.legs
  if (!more || !isByHand(report)) return lessHeld(prepared, state, shared, report)
  const at = Date.parse(transactTime)
  tellAccount(prepared, shared, symbol, at)
  if (afterHand(prepared) === 'TakeOver') {
    own.quantity += way * lastQty
    own.paid += way * lastQty * lastPx
    own.costE4 += halfEven(way * lastQty * toE4(lastPx) * multiplierOf(symbol) * settlCurrFxRate)
  }
  noteHand(state, symbol, at, 'more held')
  const note = handNote(prepared, state, symbol, 'more held')
  giveUp(prepared, state, symbol, at)
  tellHeld(prepared, state, symbol)
  return note
}

/** A plan that gives up what a hand has changed holds nothing of it any more; its orders there are taken back (see withdraw). */
function giveUp(prepared: Prepared, state: PlanState, symbol: string, at: number): void {
  const own = state.held[symbol]
  if (afterHand(prepared) !== 'LetGo' || !own || own.quantity === 0) return
  state.held[symbol] = { ...own, quantity: 0, costE4: 0, paid: 0 }
  noteEnd(state, symbol, at)
}

/** The order of the plan that a report is about; its own, or one that an exit is attached to. */
function ownOf({ orders, byOrderId }: PlanState, { clOrdId, parentOrderId, orderId }: ExecutionReport) {
  return orders[clOrdId] ? clOrdId : byOrderId[parentOrderId ?? orderId]
}

/** Whether a report is about an order of the plan, or an exit of one. */
export const isOwn = (state: PlanState, report: ExecutionReport): boolean =>
  ownOf(state, report) !== undefined

function takeOwn(
  prepared: Prepared,
  state: PlanState,
  first: string,
  own: OwnOrder,
  report: ExecutionReport,
): void {
  const { orderId, clOrdId, ordStatus, cumQty, price, stopPx, symbol } = report
  own.orderId = orderId
  own.sentAt ??= Date.parse(report.transactTime)
  state.byOrderId[orderId] = first
  if (clOrdId !== first) own.clOrdId = clOrdId
  own.price = stopPx ?? price
  if (report.legs) {
    own.legs ??= report.legs
    if (report.kept !== undefined) own.unitE4 ??= Math.round(toE4(report.kept) / report.orderQty)
  }
  delete own.asked
  if (own.role === 'out' && report.ordType === 'Limit')
    own.until ??= waitsUntil(prepared, state, symbol, Date.parse(report.transactTime))
  setWorks(state, first, own, isWorking(ordStatus))
  if (!own.works) {
    own.endedAt = Date.parse(report.transactTime)
    if (ordStatus === 'Rejected') {
      own.refused = true
      if (own.role === 'entry') noteRefusal(prepared, state, symbol, own.endedAt, report.text ?? 'refused')
    } else if (own.until !== undefined) own.over = own.takenBackAt !== undefined || own.endedAt >= own.until
    // What it was to close and is still there is left on, also by who begins anew.
    if (own.role === 'out' && cumQty < report.orderQty && (state.held[symbol]?.quantity ?? 0) !== 0)
      state.leaving[symbol] ??= sentFor(report.origin)?.signal.replace(/ again \d+$/, '') ?? first
  }
  const entries = (state.bySymbol[symbol] ??= [])
  if (own.role === 'entry' && !entries.includes(first)) entries.push(first)
  // One that ends with nothing filled was no entry.
  if (own.works || cumQty > 0 || !own.counted) return
  own.counted = false
  state.entries[symbol] = Math.max(0, (state.entries[symbol] ?? 0) - 1)
}

/** Notes whether an order works. */
export function setWorks(state: PlanState, clOrdId: string, own: OwnOrder, works: boolean): void {
  own.works = works
  const list = (state.working[own.symbol] ??= [])
  const at = list.indexOf(clOrdId)
  if (works && at < 0) list.push(clOrdId)
  if (!works && at >= 0) list.splice(at, 1)
  if (list.length === 0) delete state.working[own.symbol]
}

function takeExit(own: OwnOrder, report: ExecutionReport): void {
  const { orderId, clOrdId, role, ordStatus, ordType, stopPx, price, leavesQty } = report
  if (role !== 'Stop' && role !== 'Target') return
  const exits = (own.exits ??= {})
  const level = role === 'Target' ? { price } : stopPx === undefined ? {} : { stopPx }
  const waits = ordType === 'StopLimit' && report.triggered === true
  const offAt = exits[orderId]?.offAt ?? (waits ? Date.parse(report.transactTime) : undefined)
  const works = isWorking(ordStatus)
  const { left, withdrawn } = exits[orderId] ?? {}
  exits[orderId] = {
    ...{ clOrdId, role, works, leaves: leavesQty, ...level },
    ...(offAt === undefined ? {} : { offAt }),
    ...(left ? { left } : {}),
    ...(withdrawn ? { withdrawn } : {}),
  }
}

function takeTrade(
  prepared: Prepared,
  state: PlanState,
  shared: Shared,
  clOrdId: string,
  report: ExecutionReport,
): void {
  const own = state.orders[clOrdId]
  own.filled = true
  const { symbol, commission = 0, parentOrderId } = report
  const at = Date.parse(report.transactTime)
  // Several legs are bought together; what closes them is told at the price of the legs turned over.
  const turned = own.legs && own.role === 'out'
  const way = turned ? -1 : directionOf(report.side)
  const lastPx = (turned ? -1 : 1) * (report.lastPx ?? 0)
  const multiplier = own.legs ? CONTRACT_MULTIPLIER : multiplierOf(symbol)
  const begun = state.held[symbol]
  const fresh: Held = {
    ...{ quantity: 0, costE4: 0, paid: 0, opened: at, date: report.tradeDate, gain: 0 },
    side: sideOf(prepared, symbol, way),
    ...(own.legs ? { legs: own.legs, unitE4: own.unitE4 } : {}),
  }
  const held = begun && begun.quantity !== 0 ? begun : fresh
  const { quantity, costE4, paid } = held
  // What closes never opens: of what others hold, the plan has nothing.
  const closes = own.role === 'out' || parentOrderId !== undefined
  const lastQty = closes ? Math.min(report.lastQty ?? 0, Math.abs(quantity)) : (report.lastQty ?? 0)
  if (lastQty === 0) return
  const moved = way * lastQty
  const worthE4 = halfEven(moved * toE4(lastPx) * multiplier * (report.settlCurrFxRate ?? 1))
  const closed = way === -Math.sign(quantity) ? Math.min(lastQty, Math.abs(quantity)) : 0
  const closedCostE4 = quantity === 0 ? 0 : halfEven((costE4 * closed) / Math.abs(quantity))
  const closedWorthE4 = halfEven((-worthE4 * closed) / lastQty)
  const kept = quantity === 0 ? 0 : paid * (1 - closed / Math.abs(quantity))
  state.held[symbol] = {
    ...held,
    quantity: quantity + moved,
    costE4: costE4 - closedCostE4 + worthE4 + closedWorthE4,
    paid: kept + way * (lastQty - closed) * lastPx,
  }
  if (isToday(state, shared, report))
    state.takenE4[symbol] = (state.takenE4[symbol] ?? 0) + closedWorthE4 - closedCostE4 - toE4(commission)
  if (!closes) {
    const now = state.held[symbol]
    now.lastPx = lastPx
    now.lastAt = at
    if (!now.entries?.includes(clOrdId)) now.entries = [...(now.entries ?? []), clOrdId]
  }
  // The next one of the same bar has another signal.
  if (quantity !== 0 && quantity + moved === 0) noteEnd(state, symbol, at)
}

function noteEnd(state: PlanState, symbol: string, at: number): void {
  state.ended[symbol] = [...(state.ended[symbol] ?? []), at].slice(-MOST_ENDED)
  // Exits of what is gone are looked at no more.
  delete state.bySymbol[symbol]
  delete state.leaving[symbol]
}

/** Shares of the plan are split as all of the account's are: more of them, for what they have cost. */
function splitHeld({ held }: PlanState, symbol: string, ratio: number): void {
  const own = held[symbol]
  if (!own) return
  own.quantity *= ratio
  own.gain /= ratio
  if (own.risk !== undefined) own.risk /= ratio
}

/** Where others left less than the plan had, it lets go of what is gone, and says so. */
function lessHeld(
  prepared: Prepared,
  state: PlanState,
  shared: Shared,
  report: ExecutionReport,
): Note | undefined {
  const { origin, transactTime } = report
  tellAccount(prepared, shared, report.symbol, Date.parse(transactTime))
  // Of several legs one may be gone.
  const symbol = underlyingOf(report.symbol)
  const own = state.held[symbol]
  if (!own || own.quantity === 0) return undefined
  const way = Math.sign(own.quantity)
  const there = own.legs ? unitsHeld(shared.book, own.legs) : way * heldOf(shared, symbol)
  const shares = Math.min(Math.abs(own.quantity), Math.max(0, there))
  // Of a short position nothing left is 0 and not -0, which would be another state after it was written down and read.
  const left = shares === 0 ? 0 : way * shares
  if (left === own.quantity) return undefined
  const part = (whole: number) => (left === 0 ? 0 : whole * (left / own.quantity))
  const before = own.quantity
  state.held[symbol] = {
    ...own,
    quantity: left,
    costE4: halfEven(part(own.costE4)),
    paid: part(own.paid),
  }
  if (left === 0) noteEnd(state, symbol, Date.parse(transactTime))
  tellHeld(prepared, state, symbol)
  const note: Note = { symbol, why: 'let go', before, left, by: sentFor(origin) ? origin!.name : undefined }
  if (!isByHand(report)) return note
  noteHand(state, symbol, Date.parse(transactTime), 'less held')
  giveUp(prepared, state, symbol, Date.parse(transactTime))
  return { ...note, does: afterHand(prepared) }
}

/** Tells rule text of a side that closes what the account holds. */
export function tellAccount(
  { sides, followers }: Prepared,
  { book }: Shared,
  symbol: string,
  at: number,
): void {
  sides.forEach((one, i) => {
    if (!('close' in one.side.do)) return
    const there = followers.get(keyOf(i, symbol))?.holdings
    if (!there) return
    const holding = book.holdings[symbol]
    const shares = holding?.quantity ?? 0
    const before = there[0]
    const opened = before && Math.sign(before.shares) === Math.sign(shares) ? before.opened : at
    const average = shares === 0 ? NaN : averagePrice(holding)
    there.splice(0, there.length, { since: opened, shares, averagePrice: average, opened })
  })
}

/** An order of this plan that it does not know of, sent before it was begun anew: by what the order says of itself. */
function knowAgain({ sides }: Prepared, state: PlanState, shared: Shared, report: ExecutionReport): void {
  const { clOrdId, symbol, origin, parentOrderId, orderId } = report
  const own = sentFor(origin)
  if (own?.planId !== state.planId || parentOrderId !== undefined) return
  if (state.orders[clOrdId] || state.byOrderId[orderId]) return
  // Of a pair the first counts.
  const second = sides.some(
    ({ side: { among } }) => 'pairs' in among && among.pairs.some(([, other]) => other === symbol),
  )
  const counted = own.role === 'entry' && !second && isToday(state, shared, report)
  const order: OwnOrder = { symbol, role: own.role, works: true, counted, ...(second ? { second } : {}) }
  state.orders[clOrdId] = order
  setWorks(state, clOrdId, order, true)
  if (counted) state.entries[symbol] = (state.entries[symbol] ?? 0) + 1
}

/** Whether a report is of the session that counts are kept of. */
const isToday = (
  { dates }: PlanState,
  { listed }: Shared,
  { symbol, tradeDate }: Pick<ExecutionReport, 'symbol' | 'tradeDate'>,
): boolean => listed[symbol] !== undefined && dates[listed[symbol].venue.mic] === tradeDate
