'use client'
import { Button, Popover, TextInput } from '@mantine/core'
import { useLiveQuery } from 'dexie-react-hooks'
import { useEffect, useState } from 'react'
import { db, type SavedScan, sayStorageError } from '@/store/db'
import { tell, tellProblem } from '../shell/tell'
import css from './Find.module.css'
import { restoreDraft, useFind } from './findStore'

function load(scan: SavedScan): void {
  const { id, name, rule, measures, universe, frame } = scan
  useFind.setState({
    scanId: id,
    name,
    rule,
    measures,
    universe,
    frame,
    result: undefined,
    selected: undefined,
  })
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

/** The scans that were saved, each with its last run. */
export function SavedScans() {
  const [open, setOpen] = useState(false)
  const scans = useLiveQuery(() => db.scans.orderBy('name').toArray(), [], [])
  const runs = useLiveQuery(() => db.runs.orderBy('ranAt').toArray(), [], [])
  const lastRun = (id: string) => runs.findLast((run) => run.scanId === id)
  const remove = async (scan: SavedScan) => {
    await db.transaction('rw', db.scans, db.runs, async () => {
      await db.scans.delete(scan.id)
      await db.runs.where('scanId').equals(scan.id).delete()
    })
    if (useFind.getState().scanId === scan.id) useFind.setState({ scanId: undefined, name: undefined })
  }
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-end" trapFocus>
      <Popover.Target>
        <button
          type="button"
          className="blank"
          style={{ font: '13px var(--sans)', whiteSpace: 'nowrap' }}
          onClick={() => setOpen(!open)}
        >
          Saved scans ({scans.length})
        </button>
      </Popover.Target>
      <Popover.Dropdown>
        <div className={css.saved}>
          {scans.length === 0 && <span className="soft">None yet. Scan, then “Save the scan”.</span>}
          {scans.map((scan) => {
            const run = lastRun(scan.id)
            return (
              <div key={scan.id} className={css.savedRow}>
                <button
                  type="button"
                  className="blank"
                  style={{ borderBottom: 0 }}
                  onClick={() => {
                    load(scan)
                    setOpen(false)
                  }}
                >
                  <strong>{scan.name}</strong>{' '}
                  <span className="soft">{run ? `found ${run.symbols.length}` : 'not run yet'}</span>
                </button>
                <Button
                  variant="subtle"
                  aria-label={`Remove the scan ${scan.name}`}
                  onClick={() => remove(scan)}
                >
                  ×
                </Button>
              </div>
            )
          })}
        </div>
      </Popover.Dropdown>
    </Popover>
  )
}

/** Saves what is written, with the run that was just made. A name that exists is replaced, after it is said. */
export function SaveScan({ disabled }: { disabled: boolean }) {
  const [open, setOpen] = useState(false)
  const { name } = useFind()
  const [text, setText] = useState('')
  const same = useLiveQuery(() => db.scans.where('name').equals(text.trim()).first(), [text])
  const save = async () => {
    const { rule, measures, universe, frame, result } = useFind.getState()
    const scan: SavedScan = {
      id: same?.id ?? crypto.randomUUID(),
      name: text.trim(),
      rule,
      measures,
      universe,
      frame,
      savedAt: Date.now(),
    }
    try {
      await db.transaction('rw', db.scans, db.runs, async () => {
        await db.scans.put(scan)
        if (result)
          await db.runs.add({
            id: crypto.randomUUID(),
            scanId: scan.id,
            name: scan.name,
            ranAt: Date.now(),
            dataAsOf: result.asOf,
            symbols: result.rows.map((row) => row.symbol),
          })
      })
      useFind.setState({ scanId: scan.id, name: scan.name })
      tell(`Saved as “${scan.name}”.`)
      setOpen(false)
    } catch (error) {
      tellProblem(new Error(sayStorageError(error)))
    }
  }
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-end" trapFocus>
      <Popover.Target>
        <Button
          variant="default"
          disabled={disabled}
          onClick={() => {
            setText(name ?? '')
            setOpen(!open)
          }}
        >
          Save the scan
        </Button>
      </Popover.Target>
      <Popover.Dropdown w={300}>
        <form
          onSubmit={(e) => {
            e.preventDefault()
            if (text.trim() !== '') void save()
          }}
        >
          <TextInput
            label="Name of the scan"
            value={text}
            maxLength={80}
            onChange={(e) => setText(e.currentTarget.value)}
            description={same ? 'A scan of this name exists and will be replaced.' : undefined}
            data-autofocus
          />
          <Button type="submit" mt={8} disabled={text.trim() === ''}>
            {same ? 'Replace it' : 'Save'}
          </Button>
        </form>
      </Popover.Dropdown>
    </Popover>
  )
}
