import { type Drawing } from '../market/drawings'
import { priceText } from '../market/money'
import { type Report } from '../market/report'
import { type Plan } from './document'
import { type OwnBars, ownBarsText } from './ownBars'
import { type Prose, planProse } from './say'

/** A clause that two versions of a plan say differently. */
export interface Difference {
  clause: Prose['clause'] | 'Name' | 'Drawn' | 'Figures' | 'Bars'
  /** From 0; undefined for what is of both sides. */
  side?: number
  /** Undefined where the clause is new, or is gone. */
  before?: string
  after?: string
}

/** What two versions of a plan say differently, clause by clause, in their order; empty where only the number differs. */
export function differences(before: Plan, after: Plan): Difference[] {
  const key = ({ clause, side }: Prose) => `${clause} ${side ?? ''}`
  const [old, now] = [before, after].map((plan) => new Map(planProse(plan).map((one) => [key(one), one])))
  const names: Difference[] =
    before.name === after.name ? [] : [{ clause: 'Name', before: before.name, after: after.name }]
  const keys = [...new Set([...old.keys(), ...now.keys()])]
  return [
    ...names,
    ...moved(before, after),
    ...reported(before, after),
    ...brought(before, after),
    ...keys.flatMap((one): Difference[] => {
      const [was, is] = [old.get(one), now.get(one)]
      if (was?.text === is?.text) return []
      const { clause, side } = (was ?? is)!
      return [{ clause, ...(side === undefined ? {} : { side }), before: was?.text, after: is?.text }]
    }),
  ]
}

/** What is drawn elsewhere than it was: the prose names it alone. */
function moved({ drawings: old = {} }: Plan, { drawings: now = {} }: Plan): Difference[] {
  const placed = (of: NonNullable<Plan['drawings']>) =>
    new Map(
      Object.entries(of).flatMap(([symbol, all]) =>
        all.map((one) => [`${one.name} on ${symbol}`, placeText(one)] as const),
      ),
    )
  const [was, is] = [placed(old), placed(now)]
  return [...new Set([...was.keys(), ...is.keys()])].flatMap((name): Difference[] => {
    if (was.get(name) === is.get(name)) return []
    const said = (text: string | undefined) => (text === undefined ? undefined : `${name} ${text}`)
    return [{ clause: 'Drawn', before: said(was.get(name)), after: said(is.get(name)) }]
  })
}

/** Company figures that it carries: how many of each, and the last of them. */
function reported({ figures: old = {} }: Plan, { figures: now = {} }: Plan): Difference[] {
  return [...new Set([...Object.keys(old), ...Object.keys(now)])].flatMap((symbol): Difference[] => {
    const [was, is] = [old[symbol], now[symbol]]
    if (JSON.stringify(was) === JSON.stringify(is)) return []
    const said = (all: Report[] | undefined) => all && figuresText(symbol, all)
    return [{ clause: 'Figures', before: said(was), after: said(is) }]
  })
}

/** Bars that it carries: how many of each, and up to when. */
function brought({ bars: old = {} }: Plan, { bars: now = {} }: Plan): Difference[] {
  return [...new Set([...Object.keys(old), ...Object.keys(now)])].flatMap((name): Difference[] => {
    const [was, is] = [old[name], now[name]]
    if (JSON.stringify(was) === JSON.stringify(is)) return []
    const said = (own: OwnBars | undefined) => own && `${ownBarsText(own)}, of ${name}`
    return [{ clause: 'Bars', before: said(was), after: said(is) }]
  })
}

const figuresText = (symbol: string, all: readonly Report[]): string =>
  `${all.length} ${all.length === 1 ? 'report' : 'reports'} of ${symbol}, the last known at ${new Date(Math.max(...all.map(({ known }) => known))).toISOString().slice(0, 16)}Z`

function placeText(drawing: Drawing): string {
  if (drawing.kind === 'level') return `at ${priceText(drawing.price)}`
  if (drawing.kind === 'zone') return `from ${priceText(drawing.lower)} to ${priceText(drawing.upper)}`
  return `through ${priceText(drawing.from.price)} and ${priceText(drawing.to.price)}`
}

/** A difference in words: "Do: “buy 100 shares …” is now “buy 200 shares …”". */
export function differenceText({ clause, side, before, after }: Difference): string {
  const of = `${clause}${side === 1 ? ', other side' : ''}`
  if (before === undefined) return `${of}: new, “${after}”`
  return after === undefined ? `${of}: gone, “${before}”` : `${of}: “${before}” is now “${after}”`
}
