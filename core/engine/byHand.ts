import { type ExecutionReport, isWorking, ON_REQUEST } from '../orders/model'
import { sentFor } from '../plans/ids'
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

/** Whether a plan does nothing more about a security, since a hand was at it and it is to stand still then. */
export const leavesAlone = ({ plan }: Prepared, state: PlanState, symbol: string): boolean =>
  plan.byHand === 'StandStill' && handOf(state, symbol) !== undefined

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
  const wished = !exit && (own.wished || own.takenBackAt !== undefined)
  return wished ? undefined : 'order canceled'
}

/** The note that a hand was at an order, or has bought more. */
export const handNote = ({ plan }: Prepared, symbol: string, did: HandDid): Note => ({
  ...{ symbol, why: 'by hand', did },
  does: plan.byHand ?? 'LetGo',
})
