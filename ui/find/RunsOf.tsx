'use client'
import { Select } from '@mantine/core'
import { sayEnd, sayMoment } from '@/core/market/moments'
import { splitFrame, timeframeOf } from '../market/frames'
import { useState } from 'react'
import { compareRuns } from '@/core/scan/compareRuns'
import { type ScanRun } from '@/store/db'
import css from './Find.module.css'

/** Zone of runs that older builds kept: they knew the home market only. */
const HOME = 'America/Halifax'

const when = (run: ScanRun): string => sayMoment(run.marketTime ?? run.ranAt, HOME)

/** Up to when the bars of a run went. */
function upTo({ dataAsOf, zone = HOME, frame }: ScanRun): string {
  if (!Number.isFinite(dataAsOf)) return 'no bars'
  if (!frame) return sayMoment(dataAsOf, zone)
  const { every, soFar } = splitFrame(frame)
  return sayEnd(timeframeOf(every), zone, dataAsOf, soFar)
}

/** The runs of a scan, two of them compared: what is new, what is gone, what is still there. */
export function RunsOf({ runs }: { runs: readonly ScanRun[] }) {
  const [first, setFirst] = useState<string>()
  const [second, setSecond] = useState<string>()
  if (runs.length === 0) return <p className="soft">It has not been run since it was saved.</p>
  const later = runs.find((run) => run.id === second) ?? runs[runs.length - 1]
  const earlier = runs.find((run) => run.id === first) ?? runs[Math.max(0, runs.length - 2)]
  // Runs of different versions asked for different things, which is said where there are such.
  const several = runs.some((run) => run.scanVersion !== runs[0].scanVersion)
  const options = [...runs].reverse().map((run) => ({
    value: run.id,
    label: `${when(run)} · ${several ? `version ${run.scanVersion} · ` : ''}${run.symbols.length} found · data of ${upTo(run)}`,
  }))
  const { came, went, stayed } = compareRuns(earlier.symbols, later.symbols)
  const list = (symbols: string[]) =>
    symbols.length === 0
      ? 'none'
      : `${symbols.slice(0, 24).join(', ')}${symbols.length > 24 ? ` and ${symbols.length - 24} more` : ''}`
  return (
    <div className={css.runs}>
      <Select
        size="xs"
        label="Run"
        data={options}
        value={later.id}
        onChange={(id) => setSecond(id ?? undefined)}
      />
      <Select
        size="xs"
        label="compared with"
        data={options}
        value={earlier.id}
        onChange={(id) => setFirst(id ?? undefined)}
      />
      <p>
        <strong>New ({came.length})</strong> {list(came)}
      </p>
      <p>
        <strong>Gone ({went.length})</strong> {list(went)}
      </p>
      <p>
        <strong>Still there ({stayed.length})</strong> {list(stayed)}
      </p>
    </div>
  )
}
