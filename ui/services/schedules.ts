import { type Broker } from '@/client'
import { checkRule, measuresIn } from '@/core/rules'
import { sessionsBetween, venueOf } from '@/core/market/venue'
import { type SessionView } from '@/core/market/wire'
import { lastDue, type Schedule } from '@/core/scan/schedule'
import { db, type SavedScan } from '@/store/db'
import { splitFrame, timeframeOf } from '../market/frames'
import { membersOf } from '../market/universe'
import { useLink } from '../link/useLink'
import { type Market, type Source } from './market'
import { keepRun } from './runs'
import { type Scans } from './scans'

/** The lock that the one tab holds which runs scheduled scans. */
const LOCK = 'heron schedules'

const DAY = 86_400_000

/**
 * The last moment at which a schedule was due: in the session under way or before it, or in the last that is over, of
 * which the broker tells nothing any more.
 */
export function lastDueAt(
  schedule: Schedule,
  { mic, opens, closes }: Pick<SessionView, 'mic' | 'opens' | 'closes'>,
  now: number,
): number | undefined {
  const here = lastDue(schedule, { open: Date.parse(opens), close: Date.parse(closes), now })
  const venue = venueOf(mic)
  if (here !== undefined || !venue) return here
  const date = (moment: number) => new Date(moment).toISOString().slice(0, 10)
  const last = sessionsBetween(venue, date(now - 10 * DAY), date(now)).findLast((one) => one.close <= now)
  return last && lastDue(schedule, { ...last, now })
}

/** What happened to a scan that ran by itself: what it found, or what went wrong. */
export type RanByItself = { name: string } & ({ found: number; fresh: number } | { problem: unknown })

/**
 * Runs the saved scans that are due, on whichever screen one is, in one tab only: whoever holds the lock. When that
 * tab is closed the next one takes over, and what the first has run it finds among the runs.
 */
export class Schedules {
  private readonly listeners = new Set<(ran: RanByItself) => void>()
  private release: (() => void) | undefined
  private minute = ''
  private busy = false
  private listed: Promise<Market['securities']> | undefined

  constructor(
    private readonly broker: Broker,
    private readonly scans: Scans,
  ) {}

  listen(listener: (ran: RanByItself) => void): () => void {
    this.listeners.add(listener)
    return () => void this.listeners.delete(listener)
  }

  start(): void {
    if (this.release) return
    const stopped = new AbortController()
    this.release = () => stopped.abort()
    const { signal } = stopped
    const held = async () => {
      const off = useLink.subscribe(() => void this.look())
      void this.look()
      await new Promise<void>((done) => signal.addEventListener('abort', () => done(), { once: true }))
      off()
    }
    // Waits for its turn; where it never comes, nothing is lost.
    void navigator.locks.request(LOCK, { signal }, held).catch(() => undefined)
  }

  end(): void {
    this.release?.()
    this.release = undefined
  }

  /** Looks once for each minute of the market. */
  private async look(): Promise<void> {
    const now = useLink.getState().clock?.now
    const minute = now?.slice(0, 16) ?? ''
    if (!now || minute === this.minute || this.busy) return
    this.busy = true
    this.minute = minute
    try {
      await this.runDue(Date.parse(now), minute)
    } catch {
      // The broker is away, or the browser's storage: the next minute looks again.
    } finally {
      this.busy = false
    }
  }

  private async runDue(now: number, minute: string): Promise<void> {
    const scheduled = await db.scans.filter((scan) => scan.schedule !== undefined).toArray()
    if (scheduled.length === 0) return
    const venues = await this.broker.venues()
    this.listed ??= this.broker.securities().catch((error: unknown) => {
      this.listed = undefined
      throw error
    })
    const indices = Object.fromEntries(venues.map((venue) => [venue.mic, venue.index]))
    const market = { securities: await this.listed, indices }
    for (const scan of scheduled) {
      const schedule = scan.schedule!
      const venue = venues.find((one) => one.mic === schedule.venue) ?? venues[0]
      const due = lastDueAt(schedule, venue, now)
      if (due === undefined) continue
      const runs = await db.runs.where('scanId').equals(scan.id).toArray()
      if (runs.some((run) => (run.marketTime ?? 0) >= due)) continue
      const ran = await this.run(market, scan, `${venue.date} ${venue.state} ${minute} ~${minute}`)
      for (const listener of this.listeners) listener(ran)
    }
  }

  private async run(market: Market, scan: SavedScan, version: string): Promise<RanByItself> {
    const { name } = scan
    try {
      const own = scan.universe.is === 'own' ? await db.ownData.get(scan.universe.dataId) : undefined
      const every = timeframeOf(own?.every ?? splitFrame(scan.frame).every)
      const checked = checkRule(scan.rule, every)
      if (!checked.type)
        return { name, problem: new Error('Its rule is not sound any more: open it and mend it.') }
      const lists = await db.lists.toArray()
      const runs = new Map((await db.runs.orderBy('ranAt').toArray()).map((run) => [run.scanId, run.symbols]))
      const source: Source =
        scan.universe.is === 'own'
          ? { is: 'own', dataId: scan.universe.dataId, version: String(own?.importedAt) }
          : { is: 'market', frame: scan.frame, version }
      const ask = {
        rule: checked.tree,
        measures: measuresIn(checked.tree),
        among: membersOf(
          scan.universe,
          market.securities.filter((s) => s.kind !== 'Index'),
          runs,
          lists,
        ),
      }
      const found = await this.scans.run(market, source, ask, () => undefined)
      await keepRun(scan, found, own?.every ?? scan.frame)
      const before = new Set(runs.get(scan.id))
      const fresh = found.rows.filter((row) => !before.has(row.symbol)).length
      return { name, found: found.rows.length, fresh }
    } catch (problem) {
      return { name, problem }
    }
  }
}
