'use client'
import { Button } from '@mantine/core'
import { useLiveQuery } from 'dexie-react-hooks'
import { sayMoment } from '@/core/market/moments'
import { type SavedScan, type ScanVersion } from '@/store/db'
import { versionsOf } from '@/store/scans'
import css from './Find.module.css'

const ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone

/** What a scan asked in its earlier versions, each to be taken up as it was. */
export function VersionsOf({ scan, take }: { scan: SavedScan; take(version: ScanVersion): void }) {
  const versions = useLiveQuery(() => versionsOf(scan.id), [scan.id, scan.version], [])
  const earlier = versions.filter((one) => one.version !== scan.version)
  if (earlier.length === 0) return null
  return (
    <section aria-label={`Earlier versions of ${scan.name}`}>
      {earlier.map((one) => (
        <div key={one.version} className={css.savedRow}>
          <span className="soft">
            version {one.version}, saved {sayMoment(one.savedAt, ZONE)}
            <code className={css.ruleLine}>{one.rule}</code>
          </span>
          <Button variant="subtle" size="xs" onClick={() => take(one)}>
            open
          </Button>
        </div>
      ))}
    </section>
  )
}
