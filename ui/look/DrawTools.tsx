'use client'
import { type Spot } from '@/core/market/dividers'
import { type Bars } from '@/core/market/bars'
import { type IncrementBand, toTick } from '@/core/market/increment'
import css from './Look.module.css'
import { changeLayout, freeName } from './useLayout'

export type Tool = 'level' | 'line' | 'zone' | 'dividers'

const TOOLS: Record<Tool, { does: string; spots: 1 | 2 }> = {
  level: { does: 'click the price at which it lies', spots: 1 },
  line: { does: 'click two places that it goes through', spots: 2 },
  zone: { does: 'click its upper and its lower edge', spots: 2 },
  dividers: { does: 'click two places: what lies between is said in a sentence', spots: 2 },
}

/** As they stand in the sentence. */
const NAMES: Record<Tool, string> = {
  level: 'a level',
  line: 'a line',
  zone: 'a zone',
  dividers: 'or measure with dividers',
}

export const spotsNeeded = (tool: Tool): number => TOOLS[tool].spots

/** What to do next with a tool in hand. */
export const toolHint = (tool: Tool, spots: number): string =>
  spots === 1 && TOOLS[tool].spots === 2 ? 'now the second place' : TOOLS[tool].does

export function DrawTools({
  tool,
  setTool,
}: {
  tool: Tool | undefined
  setTool(tool: Tool | undefined): void
}) {
  return (
    <span className={css.drawTools} role="group" aria-label="Draw">
      {(Object.keys(TOOLS) as Tool[]).map((one) => (
        <button
          key={one}
          type="button"
          className="blank"
          aria-pressed={tool === one}
          aria-label={one}
          title={TOOLS[one].does}
          onClick={() => setTool(tool === one ? undefined : one)}
        >
          {NAMES[one]}
        </button>
      ))}
    </span>
  )
}

/** Keeps what was drawn, prices on the security's own steps. */
export async function keepDrawing(
  symbol: string,
  bars: Bars,
  tool: Tool,
  spots: readonly Spot[],
  steps: readonly IncrementBand[],
): Promise<void> {
  const price = (spot: Spot) => toTick(steps, Math.max(spot.price, 0))
  const point = (spot: Spot) => ({ time: bars.time[spot.row], price: price(spot) })
  await changeLayout(symbol, ({ drawings }) => {
    const id = crypto.randomUUID()
    const [one, other] = spots
    if (tool === 'level')
      return {
        drawings: [...drawings, { id, kind: 'level', name: freeName('level', drawings), price: price(one) }],
      }
    if (tool === 'line')
      return {
        drawings: [
          ...drawings,
          { id, kind: 'line', name: freeName('line', drawings), from: point(one), to: point(other) },
        ],
      }
    if (tool === 'zone') {
      const [lower, upper] = [price(one), price(other)].sort((a, b) => a - b)
      return { drawings: [...drawings, { id, kind: 'zone', name: freeName('zone', drawings), upper, lower }] }
    }
    return {}
  })
}
