import { type Drawing } from '../market/drawings'
import { momentText } from '../market/momentText'
import { type Plan } from './document'
import { type PlanMemory } from './memory'

/** A drawing as a file holds it: its moments in words. */
function drawn(drawing: Drawing): object {
  if (drawing.kind !== 'line') return drawing
  const [from, to] = [drawing.from, drawing.to].map((end) => ({ ...end, time: momentText(end.time) }))
  return { ...drawing, from, to }
}

const mapped = <T, U>(of: Readonly<Record<string, readonly T[]>>, into: (one: T) => U): Record<string, U[]> =>
  Object.fromEntries(Object.entries(of).map(([symbol, list]) => [symbol, list.map(into)]))

function written(plan: Plan): object {
  const { drawings, figures } = plan
  return {
    ...plan,
    ...(drawings ? { drawings: mapped(drawings, drawn) } : {}),
    ...(figures ? { figures: mapped(figures, (one) => ({ ...one, known: momentText(one.known) })) } : {}),
  }
}

/** The text of a plan's file, or of one with its memory: moments of what is drawn and of company figures stand as dates and times. */
export const planFileText = (of: Plan | PlanMemory): string =>
  `${JSON.stringify('plan' in of ? { ...of, plan: written(of.plan) } : written(of), null, 2)}\n`
