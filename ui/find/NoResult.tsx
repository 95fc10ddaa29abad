'use client'
import { Button } from '@mantine/core'
import page from '../shell/Page.module.css'
import { useFind } from './findStore'

/** Stands where no row does: what to do next, as one button. */
export function NoResult({
  scanned,
  running,
  run,
  disabled,
  loosen,
  before,
}: {
  scanned: boolean
  running: boolean
  run(): void
  disabled: boolean
  loosen: string[]
  /** Goes to when it was true before. */
  before(): void
}) {
  const name = useFind((s) => s.name)
  if (running) return <div className={page.empty}>Looking …</div>
  if (scanned) {
    return (
      <div className={page.empty}>
        <span>
          Nothing meets the rule at its last bar.
          {loosen.length > 0 &&
            ` It looks at ${loosen.slice(0, 4).join(', ')}: loosen ${loosen.length === 1 ? 'it' : 'one of them'}.`}
        </span>
        <Button variant="default" onClick={before}>
          See when it was true before
        </Button>
      </div>
    )
  }
  return (
    <div className={page.empty}>
      <span>
        {name
          ? `“${name}” has not been run today.`
          : 'Scan to see which securities meet the rule now, and why.'}
      </span>
      <Button onClick={run} disabled={disabled}>
        Scan now
      </Button>
    </div>
  )
}
