'use client'
import { Menu } from '@mantine/core'
import { type RefObject } from 'react'
import { type Bars } from '@/core/market/bars'
import { sayBar } from '@/core/market/moments'
import { type LookLayout } from '@/store/db'
import { download } from '../shell/download'
import { tell, tellProblem } from '../shell/tell'
import { exportTable } from '../table/exportTable'
import { type Line } from './chartOption'
import { figureColumns } from './FiguresTable'
import { layoutText, readLayout } from './layoutFile'
import { titledPicture } from './picture'
import { inksOf } from './inks'
import { changeLayout } from './useLayout'

/** What leaves a chart as a file, and the layout that comes from one. */
export function ChartFile({
  symbol,
  every,
  bars,
  lines,
  layout,
  picture,
}: {
  symbol: string
  every: string
  bars: Bars
  lines: readonly Line[]
  layout: LookLayout
  /** Makes the picture; none while the figures stand in the chart's place. */
  picture?: RefObject<(() => string) | undefined>
}) {
  const rows = () => Array.from(bars.time.keys())
  return (
    <>
      <Menu position="bottom-end">
        <Menu.Target>
          <button type="button" className="blank">
            file
          </button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item
            disabled={!picture}
            onClick={() => {
              const url = picture?.current?.()
              if (url) void savePicture(url, symbol, every, bars, lines)
            }}
          >
            Picture (PNG)
          </Menu.Item>
          <Menu.Item onClick={() => exportTable(symbol, 'csv', rows(), figureColumns(bars, lines))}>
            Figures (CSV)
          </Menu.Item>
          <Menu.Item onClick={() => exportTable(symbol, 'xlsx', rows(), figureColumns(bars, lines))}>
            Figures (XLSX)
          </Menu.Item>
          <Menu.Divider />
          <Menu.Item
            onClick={() => download(`${symbol} layout.json`, layoutText(layout), 'application/json')}
          >
            Save the layout
          </Menu.Item>
          <Menu.Item onClick={() => document.getElementById('layout file')?.click()}>
            Take up a layout …
          </Menu.Item>
        </Menu.Dropdown>
      </Menu>
      <LayoutInput symbol={symbol} />
    </>
  )
}

/** The chart as a PNG, named and with its legend. */
async function savePicture(
  url: string,
  symbol: string,
  every: string,
  bars: Bars,
  lines: readonly Line[],
): Promise<void> {
  const detail = `${every} bars, last ${sayBar(bars, bars.time.length - 1)}, ${bars.zone}`
  try {
    const picture = await titledPicture(url, { title: symbol, detail, lines }, inksOf(document.body))
    download(`${symbol}.png`, picture, 'image/png')
  } catch (error) {
    tellProblem(error as Error)
  }
}

/** Takes up a layout from a file: drawings and panels of whoever made it, for this security. */
function LayoutInput({ symbol }: { symbol: string }) {
  return (
    <input
      id="layout file"
      type="file"
      accept="application/json,.json"
      hidden
      aria-label="Layout file"
      onChange={async (event) => {
        const input = event.currentTarget
        const file = input.files?.[0]
        if (!file) return
        try {
          const { drawings, panels, frames } = readLayout(await file.text())
          await changeLayout(symbol, () => ({ drawings, panels, frames }))
          const count = (n: number, what: string) => `${n} ${what}${n === 1 ? '' : 's'}`
          tell(`Took up ${count(drawings.length, 'drawing')} and ${count(panels.length, 'panel')}.`)
        } catch (error) {
          tellProblem(error as Error)
        }
        input.value = ''
      }}
    />
  )
}
