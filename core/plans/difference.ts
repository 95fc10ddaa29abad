import { type Plan } from './document'
import { type Prose, planProse } from './say'

/** A clause that two versions of a plan say differently. */
export interface Difference {
  clause: Prose['clause'] | 'Name'
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
    ...keys.flatMap((one): Difference[] => {
      const [was, is] = [old.get(one), now.get(one)]
      if (was?.text === is?.text) return []
      const { clause, side } = (was ?? is)!
      return [{ clause, ...(side === undefined ? {} : { side }), before: was?.text, after: is?.text }]
    }),
  ]
}

/** A difference in words: "Do: “buy 100 shares …” is now “buy 200 shares …”". */
export function differenceText({ clause, side, before, after }: Difference): string {
  const of = `${clause}${side === 1 ? ', other side' : ''}`
  if (before === undefined) return `${of}: new, “${after}”`
  return after === undefined ? `${of}: gone, “${before}”` : `${of}: “${before}” is now “${after}”`
}
