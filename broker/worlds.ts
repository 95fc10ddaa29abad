import { mkdir, mkdtemp, readdir, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { DateTime } from 'luxon'
import { JournalError, OtherSeed } from './journal/problem'
import { type Markets } from './market/markets'
import { NotServed, type OutOfService } from './service'
import { type SetAside } from '@/core/orders/worlds'
import { allSetAside, carriedOf, otherMarket, setAsideAll } from './setAside'
import { World, type WorldOptions } from './world'
import { type Owner } from './worldOptions'

const REHEARSAL = /^[a-z0-9][a-z0-9-]{0,39}$/

/** How many rehearsals there may be: each keeps its books in memory. */
const MOST = 20

/** Why a world could not be opened, as its requests are answered. */
function unopened(name: string, error: unknown, mend: string): OutOfService {
  const { message } = error as Error
  const more = error instanceof JournalError ? ` ${error.mend}` : ''
  return {
    why: `${name} could not be opened: ${message}${message.endsWith('.') ? '' : '.'}`,
    mend: `${mend}${more}`,
  }
}

/** All worlds of a broker: paper and live, which share one market and clock, and rehearsals over the same market. */
export class Worlds {
  private readonly rehearsals = new Map<string, World>()
  /** Rehearsals that could not be opened. */
  private readonly unread = new Map<string, OutOfService>()
  /** Ids of rehearsals that are being made or taken away. */
  private readonly busy = new Set<string>()

  private constructor(
    readonly paper: World,
    readonly live: World,
    private readonly options: WorldOptions,
    /** What was set aside at this start or an earlier one. */
    private readonly aside: readonly SetAside[],
    /** Folders of worlds that stand in for damaged ones. */
    private readonly standIns: readonly string[],
  ) {}

  get markets(): Markets {
    return this.paper.markets
  }

  get all(): World[] {
    return [this.paper, this.live, ...this.rehearsals.values()]
  }

  get rehearsed(): World[] {
    return [...this.rehearsals.values()]
  }

  /** What cannot be opened or was set aside, each with what to do about it. */
  get setAside(): SetAside[] {
    const fixed = [this.paper, this.live].flatMap(({ name, service }) =>
      service.out ? [{ name, ...service.out }] : [],
    )
    const unread = [...this.unread].map(([name, out]) => ({ name, ...out }))
    return [...fixed, ...unread, ...this.aside]
  }

  /**
   * Opens every world in the data folder, and begins paper and live if they are missing. A world that cannot be opened is out of
   * service and does not keep the others from starting. Throws JournalError if the whole folder cannot be used.
   */
  static async open(options: WorldOptions): Promise<Worlds> {
    const { dataDir, say = () => undefined } = options
    const begin = await begun(options)
    const standIns: string[] = []
    const paper = await opened({ ...begin, dataDir }, standIns)
    const about: WorldOptions = {
      ...options,
      ...{ dataDir: join(dataDir, 'live'), name: 'live', environment: 'live', beside: paper },
      ...(begin.liveKeys ? { keys: begin.liveKeys } : {}),
    }
    const live = await opened(about, standIns)
    paper.neighbour = live
    const worlds = new Worlds(paper, live, options, await allSetAside(dataDir), standIns)
    const folder = join(dataDir, 'rehearsals')
    for (const name of await readdir(folder).catch(() => [])) {
      if (!REHEARSAL.test(name)) continue
      await worlds.over(name).catch((error: unknown) => {
        const out = unopened(
          `The rehearsal ${name}`,
          error,
          `Delete it with DELETE /rehearsals/${name}, or mend its folder and restart the broker.`,
        )
        worlds.unread.set(name, out)
        say(`${out.why} ${out.mend}`)
      })
    }
    return worlds
  }

  /** A rehearsal by its id. Throws NotServed for one that could not be opened. */
  rehearsal(id: string): World | undefined {
    const out = this.unread.get(id)
    if (out) throw new NotServed(out)
    return this.rehearsals.get(id)
  }

  private async over(name: string, more: Partial<WorldOptions> = {}): Promise<World> {
    const dataDir = join(this.options.dataDir, 'rehearsals', name)
    await mkdir(dataDir, { recursive: true, mode: 0o700 })
    const world = await World.open({ ...this.options, ...more, dataDir, name, over: this.paper })
    this.rehearsals.set(name, world)
    return world
  }

  /**
   * Begins a rehearsal at a moment that has passed, with one account. Throws RangeError for a name that is taken or
   * cannot be one, a moment that lies ahead, and where there are too many.
   */
  async rehearse(id: string, start: string, startingCash: number, owner?: Owner): Promise<World> {
    if (!REHEARSAL.test(id)) throw new RangeError('An id is 1 to 40 small letters, digits or -')
    if (this.rehearsals.has(id) || this.unread.has(id))
      throw new RangeError(`A rehearsal ${id} stands already; choose another id`)
    if (this.busy.has(id))
      throw new RangeError(`A rehearsal ${id} is being made or taken away; choose another id, or ask again`)
    if (this.rehearsals.size + this.busy.size >= MOST)
      throw new RangeError(`There are ${MOST} rehearsals; remove one that is done with`)
    const at = Date.parse(start)
    const first = this.markets.home.sessionsBegunBy(this.paper.clock.now())[0].open
    if (at > this.paper.clock.now()) throw new RangeError('A rehearsal begins at a moment that has passed')
    if (at < first)
      throw new RangeError(`The market begins at ${this.paper.timeText(first)}; choose a later start`)
    this.busy.add(id)
    try {
      return await this.over(id, { start, startingCash, owner })
    } catch (error) {
      await this.drop(id)
      throw error
    } finally {
      this.busy.delete(id)
    }
  }

  private drop = (id: string): Promise<void> =>
    rm(join(this.options.dataDir, 'rehearsals', id), { recursive: true, force: true })

  /** Deletes a rehearsal, even one that could not be opened. */
  async remove(id: string): Promise<void> {
    if (this.busy.has(id)) throw new RangeError(`The rehearsal ${id} is being taken away already`)
    this.busy.add(id)
    try {
      const world = this.rehearsals.get(id)
      await world?.close('is being taken away')
      await this.drop(id)
      this.rehearsals.delete(id)
      this.unread.delete(id)
    } finally {
      this.busy.delete(id)
    }
  }

  /** Whether a rehearsal of this id exists but could not be opened. */
  isUnread = (id: string): boolean => this.unread.has(id)

  /** Lets every world run on to the present; called several times a second. */
  async tick(): Promise<void> {
    let problem: unknown
    for (const world of this.all) await world.tick().catch((error: unknown) => (problem ??= error))
    // A world that cannot be written does not hold up the others.
    if (problem !== undefined) throw problem as Error
  }

  async close(): Promise<void> {
    for (const world of this.all.toReversed()) await world.close()
    for (const folder of this.standIns) await rm(folder, { recursive: true, force: true })
  }
}

/** Options for opening paper and live. Worlds of another market version are set aside first; new ones take over their keys and time. */
async function begun(options: WorldOptions): Promise<WorldOptions & { liveKeys?: WorldOptions['keys'] }> {
  const { dataDir, say = () => undefined } = options
  const market = await otherMarket(dataDir)
  if (market === undefined) return options
  const [paper, live] = [await carriedOf(dataDir), await carriedOf(join(dataDir, 'live'))]
  const { why, mend } = await setAsideAll(dataDir, market)
  say(`${why} ${mend}`)
  const start = paper.until === undefined ? options.start : DateTime.fromMillis(paper.until).toISO()!
  return { ...options, start, keys: paper.keys, liveKeys: live.keys }
}

/**
 * Opens paper or live. If it is damaged its files stay as they are: an empty world with its keys takes its place, out of
 * service, so that the others can start.
 */
async function opened(options: WorldOptions, standIns: string[]): Promise<World> {
  const { dataDir, name = 'paper', say = () => undefined } = options
  try {
    return await World.open(options)
  } catch (error) {
    if (!(error instanceof JournalError) || error instanceof OtherSeed) throw error
    const out = unopened(
      `The ${name} world`,
      error,
      'Nothing of it was changed. Mend its folder and restart the broker.',
    )
    say(`${out.why} ${out.mend}`)
    const { keys, until } = await carriedOf(dataDir)
    const start = until === undefined ? options.start : DateTime.fromMillis(until).toISO()!
    const folder = await mkdtemp(join(tmpdir(), `heron-${name}-`))
    standIns.push(folder)
    const world = await World.open({ ...options, dataDir: folder, start, keys })
    world.service.refuse(out)
    return world
  }
}
