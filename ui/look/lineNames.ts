import { type ECharts, graphic } from 'echarts/core'
import { type LineName, SIDES } from './chartOption'

/** Pixels from one name to the next: their own height. */
const APART = 14

/** Heights moved so that none lies on another: down from the first, and up again where they would leave `most`. */
export function spread(heights: readonly number[], apart: number, most: number): number[] {
  const order = [...heights.keys()].sort((a, b) => heights[a] - heights[b])
  const out = [...heights]
  let free = -Infinity
  for (const i of order) {
    out[i] = Math.max(heights[i], free)
    free = out[i] + apart
  }
  let end = most
  for (const i of order.reverse()) {
    out[i] = Math.min(out[i], end)
    end = out[i] - apart
  }
  return out
}

/** Writes the names beside the right ends of their lines. Returns what takes them away again. */
export function writeNames(made: ECharts, names: readonly LineName[]): () => void {
  const canvas = made.getZr()
  const heights = names.map(
    ({ grid, value }) => made.convertToPixel({ xAxisIndex: grid, yAxisIndex: grid }, [0, value])[1],
  )
  const places = spread(heights, APART, made.getHeight() - APART)
  const texts = names.map(
    ({ text, color }, i) =>
      new graphic.Text({
        style: {
          text,
          fill: color,
          font: '11.5px IBM Plex Sans',
          verticalAlign: 'middle',
          width: SIDES.right - 14,
          overflow: 'truncate',
        },
        x: made.getWidth() - SIDES.right + 6,
        y: places[i],
        silent: true,
        z: 5,
      }),
  )
  for (const text of texts) canvas.add(text)
  return () => {
    for (const text of texts) canvas.remove(text)
  }
}
