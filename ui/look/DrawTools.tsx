'use client'
import { type Spot } from '@/core/market/dividers'
import { type Bars } from '@/core/market/bars'
import css from './Look.module.css'
import { changeLayout, freeName } from './useLayout'

export type Tool = 'level' | 'line' | 'zone' | 'dividers'

const TOOLS: Record<Tool, { does: string; spots: 1 | 2 }> = {
  level: { does: 'click the price at which it lies', spots: 1 },
  line: { does: 'click two places that it goes through', spots: 2 },
  zone: { does: 'click its upper and its lower edge', spots: 2 },
  dividers: { does: 'click two places: what lies between is said in a sentence', spots: 2 },
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
          title={TOOLS[one].does}
          onClick={() => setTool(tool === one ? undefined : one)}
        >
          {one}
        </button>
      ))}
    </span>
  )
}

/** Keeps what was drawn; prices to the hundredth, since a mouse is no finer. */
export async function keepDrawing(
  symbol: string,
  bars: Bars,
  tool: Tool,
  spots: readonly Spot[],
): Promise<void> {
  const price = (spot: Spot) => Math.round(spot.price * 100) / 100
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
