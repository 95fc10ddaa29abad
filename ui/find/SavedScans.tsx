'use client'
import { Button, Drawer, TagsInput } from '@mantine/core'
import { useLiveQuery } from 'dexie-react-hooks'
import { useEffect, useState } from 'react'
import { checkRule } from '@/core/rules'
import { PARTS_OF_DAY, SUPPLIED, type SuppliedScan } from '@/core/scan/supplied'
import { db, type SavedScan, type ScanRun, type ScanVersion, sayStorageError } from '@/store/db'
import { removeScan, saveScan } from '@/store/scans'
import { tell, tellProblem } from '../shell/tell'
import { tellUndo } from '../shell/tellUndo'
import css from './Find.module.css'
import { frameText } from './FrameChoice'
import { splitFrame, timeframeOf } from '../market/frames'
import { type FindState, NO_RESULT, restoreDraft, useFind } from './findStore'
import { NameAndSave } from '../shell/NameAndSave'
import { RunsOf } from './RunsOf'
import { ScheduleChoice } from './ScheduleChoice'
import { keepRun } from '../services/runs'
import { VersionsOf } from './VersionsOf'

function load(scan: SavedScan): void {
  const { id, name, rule, measures, universe, frame, order } = scan
  takeUp({ scanId: id, name, rule, measures, universe, frame, order })
}

const loadSupplied = ({ rule, measures, frame, order }: SuppliedScan): void =>
  takeUp({ rule, measures, frame, order, scanId: undefined, name: undefined })

/** Puts a scan in the place of what is written, to run at once. */
function takeUp(scan: Partial<FindState>): void {
  useFind.setState(({ taken }) => ({ ...NO_RESULT, asOfDate: undefined, ...scan, taken: taken + 1 }))
}

/** Opens the saved scan that the address names. */
export function useSavedScan(id: string | null): void {
  useEffect(() => {
    if (!id) return
    void restoreDraft()
      .then(() => db.scans.get(id))
      .then((scan) => scan && load(scan))
  }, [id])
}

async function remove({ id }: SavedScan): Promise<void> {
  const bringBack = await removeScan(id)
  tellUndo('The scan is thrown away, with its runs.', bringBack)
  if (useFind.getState().scanId === id) useFind.setState({ scanId: undefined, name: undefined })
}

/** The scans that were saved, with their tags, schedule and runs, and those that come with the product. */
export function SavedScans() {
  const [open, setOpen] = useState(false)
  const scans = useLiveQuery(() => db.scans.orderBy('name').toArray(), [], [])
  const runs = useLiveQuery(() => db.runs.orderBy('ranAt').toArray(), [], [])
  const [tag, setTag] = useState<string>()
  const tags = [...new Set(scans.flatMap((scan) => scan.tags ?? []))].sort()
  const shown = tag ? scans.filter((scan) => scan.tags?.includes(tag)) : scans
  const take = (put: () => void) => {
    put()
    setOpen(false)
  }
  return (
    <>
      <button
        type="button"
        className="blank"
        style={{ font: '13px var(--sans)', whiteSpace: 'nowrap' }}
        onClick={() => setOpen(true)}
      >
        Saved scans ({scans.length})
      </button>
      <Drawer opened={open} onClose={() => setOpen(false)} position="right" size={460} title="Scans">
        <h3>My scans</h3>
        {scans.length === 0 && <p className="soft">None yet. Scan, then “Save the scan”.</p>}
        {tags.length > 0 && (
          <p className={css.tags}>
            {tags.map((one) => (
              <button
                key={one}
                type="button"
                className={css.tag}
                aria-pressed={one === tag}
                onClick={() => setTag(one === tag ? undefined : one)}
              >
                {one}
              </button>
            ))}
          </p>
        )}
        {shown.map((scan) => (
          <SavedScanRow
            key={scan.id}
            scan={scan}
            runs={runs.filter((run) => run.scanId === scan.id)}
            take={(version) => take(() => load(version ? { ...scan, ...version } : scan))}
          />
        ))}
        <h3 style={{ marginTop: 18 }}>Through the day</h3>
        {PARTS_OF_DAY.map((part) => (
          <section key={part} aria-label={part}>
            <p className={css.partOfDay}>{part}</p>
            {SUPPLIED.filter((scan) => scan.when === part).map((scan) => (
              <div key={scan.name} className={css.savedRow}>
                <button type="button" className={css.plain} onClick={() => take(() => loadSupplied(scan))}>
                  <strong>{scan.name}</strong>
                  <span className={css.reason}>{scan.why}</span>
                  <code className={css.ruleLine}>{scan.rule}</code>
                </button>
              </div>
            ))}
          </section>
        ))}
      </Drawer>
    </>
  )
}

/** Whether its rule still types: one that does not is kept and marked, and not run before it is mended. */
const isSound = ({ rule, frame }: SavedScan): boolean =>
  checkRule(rule, timeframeOf(splitFrame(frame).every)).type !== undefined

function SavedScanRow({
  scan,
  runs,
  take,
}: {
  scan: SavedScan
  runs: ScanRun[]
  take(version?: ScanVersion): void
}) {
  const [more, setMore] = useState(false)
  const last = runs.at(-1)
  return (
    <div className={css.savedScan}>
      <div className={css.savedRow}>
        <button type="button" className={css.plain} onClick={() => take()}>
          <strong>{scan.name}</strong>{' '}
          <span className="soft">
            {last ? `found ${last.symbols.length}` : 'not run yet'} · {frameText(scan.frame)}
            {scan.version > 1 && ` · version ${scan.version}`}
            {scan.schedule && ' · runs by itself'}
            {!isSound(scan) && <span className="refusal"> · not sound any more</span>}
          </span>
          <code className={css.ruleLine}>{scan.rule}</code>
        </button>
        <Button variant="subtle" size="xs" aria-expanded={more} onClick={() => setMore(!more)}>
          {more ? 'less' : 'runs'}
        </Button>
        <Button
          variant="subtle"
          size="xs"
          aria-label={`Remove the scan ${scan.name}`}
          onClick={() => void remove(scan).catch(tellProblem)}
        >
          ×
        </Button>
      </div>
      {more && (
        <div className={css.savedMore}>
          <TagsInput
            size="xs"
            label="Tags"
            value={scan.tags ?? []}
            onChange={(tags) => void db.scans.update(scan.id, { tags })}
            placeholder={scan.tags?.length ? '' : 'evening, breakouts'}
          />
          <ScheduleChoice scan={scan} />
          <VersionsOf scan={scan} take={take} />
          <RunsOf runs={runs} />
        </div>
      )}
    </div>
  )
}

/** Saves what is written, with the run that was just made. Under a name that exists it is the next version. */
export function SaveScan({ disabled }: { disabled: boolean }) {
  const { name } = useFind()
  const scans = useLiveQuery(() => db.scans.toArray(), [], [])
  const sameAs = (text: string) => scans.find((scan) => scan.name === text)
  const save = async (text: string) => {
    const { rule, measures, universe, frame, result, order } = useFind.getState()
    try {
      const scan = await saveScan(text, { rule, measures, universe, frame, order })
      if (result && result.by === undefined) await keepRun(scan, result, result.frame)
      useFind.setState({ scanId: scan.id, name: scan.name })
      tell(`Saved as “${scan.name}”${scan.version > 1 ? `, version ${scan.version}` : ''}.`)
    } catch (error) {
      tellProblem(new Error(sayStorageError(error)))
      throw error
    }
  }
  return (
    <NameAndSave
      button="Save the scan"
      disabled={disabled}
      label="Name of the scan"
      suggested={name}
      about={(text) =>
        sameAs(text)
          ? {
              description: 'A scan of this name exists: this becomes its next version, the old ones stay.',
              save: 'Save the next version',
            }
          : { save: 'Save' }
      }
      onSave={save}
    />
  )
}
