import { clockOf } from './clock'
import { planOrderId } from '../plans/ids'
import { HOLDS } from '../rules'
import { goneFrom } from './gone'
import { judge } from './judge'
import { added, addsOf } from './keptFromAdding'
import { place } from './placing'
import { type Held } from './state'
import { deciding, togetherOf, type Trace } from './verdicts'
import { type Stepping } from './want'

/** Orders more of what is held once the price has gone far enough from the last fill, where all other clauses hold. */
export function addByDistance(stepping: Stepping, symbol: string, held: Held): void {
  const { prepared, state, shared, at, out } = stepping
  const adds = addsOf(prepared.sides[held.side].side.do)
  const quote = shared.quotes[symbol]
  const { lastPx } = held
  if (!adds || adds.after === 'Signal' || !quote || lastPx === undefined || added(held) >= adds.most) return
  const gains = 'gain' in adds.after
  const way = Math.sign(held.quantity) * (gains ? 1 : -1)
  const far = 'gain' in adds.after ? adds.after.gain : adds.after.loss
  const { security, venue } = prepared.listed[symbol]
  const wanted = goneFrom(far, lastPx, security.increments, held.risk)
  const { state: is, date } = clockOf(venue).at(at)
  if (is !== 'Open' || !(way * (quote.last - lastPx) >= wanted - 1e-9)) return
  const signal = `${held.opened} add ${added(held) + 1}`
  const { plan } = prepared
  const clOrdId = planOrderId({ planId: plan.id, symbol, date, signal, leg: 0, role: 'entry' })
  if (state.orders[clOrdId] || state.asks[clOrdId]) return
  const asked = { side: held.side, symbol, at, condition: HOLDS, clOrdId, signal, byDistance: true }
  const { findings, order } = judge(prepared, state, shared, asked)
  const wants = togetherOf(findings) === 'holds' && order
  const decides = deciding(findings)
  const told = `${decides?.clause ?? ''} ${decides?.why ?? ''}`
  if (!wants && told === held.told) return
  held.told = told
  const trace: Trace = { at, planId: plan.id, version: plan.version, side: held.side, symbol, findings }
  out.traces.push(wants ? { ...trace, clOrdId } : trace)
  if (wants) place(stepping, { side: held.side, symbol, signal, order })
}
