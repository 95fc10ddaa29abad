import { type Line } from './chartOption'
import { type Inks } from './inks'

/** What a picture of a chart says above it. */
export interface PictureAbout {
  title: string
  detail: string
  lines: readonly Line[]
}

const SCALE = 2
const MARGIN = 16
const ROW = 20

const DASHES: Record<Line['dash'], number[]> = { solid: [], dashed: [6, 4], dotted: [2, 3] }

/**
 * A chart's picture with what a reader away from the screen needs: which security and bars it shows, and which line is
 * which. `url` is the chart alone, drawn at twice its size; the answer is a PNG.
 */
export async function titledPicture(url: string, about: PictureAbout, inks: Inks): Promise<Blob> {
  const chart = new Image()
  chart.src = url
  await chart.decode()
  const width = chart.width / SCALE
  const canvas = document.createElement('canvas')
  const pen = canvas.getContext('2d')!
  pen.font = '13px "IBM Plex Sans"'
  const places = legendPlaces(about.lines, width, (text) => pen.measureText(text).width)
  const top = 52 + (places.at(-1)?.y ?? -ROW) + ROW
  canvas.width = chart.width
  canvas.height = chart.height + top * SCALE
  pen.scale(SCALE, SCALE)
  pen.fillStyle = inks.paper
  pen.fillRect(0, 0, width, canvas.height / SCALE)
  pen.fillStyle = inks.ink
  pen.font = '600 18px "Source Serif 4"'
  pen.fillText(about.title, MARGIN, 26)
  pen.font = '13px "IBM Plex Sans"'
  pen.fillStyle = inks.soft
  pen.fillText(about.detail, MARGIN, 44)
  for (const { line, x, y } of places) {
    pen.strokeStyle = inks[line.color]
    pen.lineWidth = 1.6
    pen.setLineDash(DASHES[line.dash])
    pen.beginPath()
    pen.moveTo(x, 58 + y)
    pen.lineTo(x + 22, 58 + y)
    pen.stroke()
    pen.fillText(line.text, x + 28, 62 + y)
  }
  pen.drawImage(chart, 0, top, width, chart.height / SCALE)
  return new Promise((resolve, reject) =>
    canvas.toBlob(
      (blob) =>
        blob ? resolve(blob) : reject(new Error('The picture could not be made; try a smaller window.')),
      'image/png',
    ),
  )
}

/** Where each line's name stands: beside one another as long as they fit, then in a row below. */
function legendPlaces(lines: readonly Line[], width: number, widthOf: (text: string) => number) {
  let [x, y] = [MARGIN, 0]
  return lines.map((line) => {
    const needs = 28 + widthOf(line.text) + 18
    if (x > MARGIN && x + needs > width - MARGIN) [x, y] = [MARGIN, y + ROW]
    const place = { line, x, y }
    x += needs
    return place
  })
}
