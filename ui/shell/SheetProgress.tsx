import { useSheet } from '../sheet/sheetStore'
import { AppLink } from './AppLink'
import css from './Shell.module.css'

/** How far a sheet that is being sent has come, whatever section is in view. */
export function SheetProgress() {
  const sending = useSheet((s) => s.sending)
  if (!sending) return null
  return (
    <>
      <span className={css.dot}>·</span>
      <AppLink className="blank" href="/sheet" style={{ textDecoration: 'none' }}>
        sending {sending.done} of {sending.total} rows
      </AppLink>
    </>
  )
}
