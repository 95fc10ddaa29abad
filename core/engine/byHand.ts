import { type ExecutionReport, isWorking, ON_REQUEST } from '../orders/model'
import { sentFor } from '../plans/ids'
import { type ByHand } from '../plans/document'
import { type Seen } from '../plans/seen'
import { type Prepared } from './prepare'
import { type OwnOrder, type PlanState } from './state'
import { type HandDid, type Note } from './verdicts'

/** What a hand has changed of a security that a plan holds, or of its orders there. */

/** Under which key of the seen book it stands; while it stands there as declined, the plan enters no more. */
export const handKey = (symbol: string): string => `hand ${symbol}`

/** The entry of the seen book that keeps a plan from entering a security again; undefined where nothing does. */
export function handOf({ seen }: PlanState, symbol: string): Seen | undefined {
  const entry = seen[handKey(symbol)]
  return entry?.became === 'Declined' ? entry : undefined
}

/** What a plan does after a hand; a plan that says nothing leaves the security alone. */
export const afterHand = ({ plan }: Prepared): ByHand => plan.byHand ?? 'StandStill'

/** Whether a plan leaves a security alone, since a hand was at it. */
export const leavesAlone = (prepared: Prepared, state: PlanState, symbol: string): boolean =>
  afterHand(prepared) === 'StandStill' && handOf(state, symbol) !== undefined

const DID: Record<HandDid, string> = {
  'less held': 'some of it was closed by hand',
  'more held': 'more of it was bought, or sold short, by hand',
  'order moved': 'an order of it was moved by hand',
  'order canceled': 'an order of it was canceled by hand',
}

/** Notes that a hand was at a security; what the trader has said of it since stands. */
export function noteHand(state: PlanState, symbol: string, at: number, did: HandDid): void {
  const key = handKey(symbol)
  if ((state.seen[key]?.at ?? -Infinity) >= at) return
  const { note } = state.seen[key] ?? {}
  state.seen[key] = {
    symbol,
    at,
    became: 'Declined',
    text: DID[did],
    ...(note === undefined ? {} : { note }),
  }
}

/** Whether an order is of a hand or a script: of no plan, and not of the venue itself. */
export const isByHand = ({ origin, role }: ExecutionReport): boolean =>
  sentFor(origin) === undefined && role !== 'Exercise' && role !== 'Split'

/**
 * What a hand has done to an order of the plan by a report; undefined where the plan asked for it itself, or the broker did it.
 * Whether a cancel was the plan's own wish is known only while it runs: `live`; what was being canceled when it began is taken to be.
 */
export function handDid(own: OwnOrder, report: ExecutionReport, live: boolean): HandDid | undefined {
  const { execType, clOrdId, orderId, parentOrderId, ordStatus, text } = report
  const exit = parentOrderId === undefined ? undefined : own.exits?.[orderId]
  if (!live && !exit && execType === 'PendingCancel') own.wished = true
  // Ids of a plan's own changes are made as those of its orders are.
  if (execType === 'Replaced' && !clOrdId.startsWith('p.')) return 'order moved'
  if (!live || execType !== 'Canceled' || text !== ON_REQUEST || isWorking(ordStatus)) return undefined
  const wished = exit ? exit.withdrawn : own.wished || own.takenBackAt !== undefined
  return wished ? undefined : 'order canceled'
}

/** Shares of a security that the plan holds and that none of its stops covers. */
export function withoutStop({ held, orders, bySymbol }: PlanState, symbol: string): number {
  const { quantity = 0, legs } = held[symbol] ?? {}
  if (legs) return 0
  let covered = 0
  for (const id of bySymbol[symbol] ?? [])
    for (const { role, works, leaves = 0 } of Object.values(orders[id].exits ?? {}))
      if (role === 'Stop' && works) covered += leaves
  return Math.max(0, Math.abs(quantity) - covered)
}

/** The note that a hand was at an order, or has bought more; it names shares that no stop covers. */
export function handNote(prepared: Prepared, state: PlanState, symbol: string, did: HandDid): Note {
  const bare = withoutStop(state, symbol)
  return {
    ...{ symbol, why: 'by hand', did, does: afterHand(prepared) },
    ...(bare > 0 ? { withoutStop: bare } : {}),
  }
}
