'use client'
import { Button, FileButton } from '@mantine/core'
import { useLiveQuery } from 'dexie-react-hooks'
import { useState } from 'react'
import { readCsv } from '@/core/formats/csv'
import { type BadLine, FileFailure } from '@/core/formats/problems'
import { readReports } from '@/core/formats/reportsCsv'
import { sayFile, sayLine } from '@/core/formats/say'
import { db, sayStorageError } from '@/store/db'
import { useSecurities, useVenues } from '../link/LinkProvider'

/** The zone of each security: its venue's, or that of the trader's own bars of it. */
function useZones(): () => Promise<(symbol: string) => string> {
  const securities = useSecurities().data
  const venues = useVenues().data
  return async () => {
    const own = new Map<string, string>()
    await db.ownBars.each(({ symbol, bars }) => own.set(symbol, bars.zone))
    const zoneOf = new Map((venues ?? []).map((venue) => [venue.mic, venue.zone]))
    const listed = new Map((securities ?? []).map((s) => [s.symbol, zoneOf.get(s.venue)]))
    return (symbol) => listed.get(symbol) ?? own.get(symbol) ?? 'UTC'
  }
}

/** Company figures of the trader's own, which take the place of the market's for the same securities. */
export function OwnFigures() {
  const kept = useLiveQuery(() => db.ownReports.count(), [], 0)
  const zones = useZones()
  const [said, setSaid] = useState('')
  const [problem, setProblem] = useState('')
  const [bad, setBad] = useState<BadLine[]>([])
  const take = async (file: File) => {
    setSaid('')
    setProblem('')
    setBad([])
    try {
      const { reports, bad: wrong, good } = readReports(readCsv(await file.text()), await zones())
      setBad(wrong)
      await db.ownReports.bulkPut(Array.from(reports, ([symbol, list]) => ({ symbol, reports: list })))
      setSaid(
        `${good} line${good === 1 ? '' : 's'} about ${reports.size} ${reports.size === 1 ? 'security' : 'securities'} kept${wrong.length > 0 ? `, ${wrong.length} left out` : ''}.`,
      )
    } catch (error) {
      setProblem(
        error instanceof FileFailure ? `${file.name}: ${sayFile(error.problem)}` : sayStorageError(error),
      )
    }
  }
  return (
    <section aria-label="Company figures" style={{ marginBottom: 22 }}>
      <h2>Company figures</h2>
      <p className="soft" style={{ margin: '4px 0 8px' }}>
        Shares outstanding, float, earnings and the next report come with the market. Your own, from a CSV
        file with the columns symbol, date, shares outstanding, float, eps, eps growth, next earnings,
        confirmed and before open, take their place.
      </p>
      <FileButton
        accept=".csv,text/csv"
        onChange={(file) => file && void take(file)}
        inputProps={{ 'aria-label': 'Company figures from a file' }}
      >
        {(props) => (
          <Button variant="default" {...props}>
            Figures from a file
          </Button>
        )}
      </FileButton>
      {said && <p role="status">{said}</p>}
      {problem && (
        <p role="alert" className="refusal">
          {problem}
        </p>
      )}
      {bad.slice(0, 8).map((line) => (
        <p key={line.line} className="warning">
          line {line.line}: {sayLine(line.problem)}
        </p>
      ))}
      {kept > 0 && (
        <p>
          Your own are kept for {kept} {kept === 1 ? 'security' : 'securities'}.{' '}
          <Button size="xs" variant="subtle" onClick={() => void db.ownReports.clear()}>
            remove them
          </Button>
        </p>
      )}
    </section>
  )
}
