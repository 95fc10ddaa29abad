import { mkdir, readdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { type Markets } from './market/markets'
import { World, type WorldOptions } from './world'

const REHEARSAL = /^[a-z0-9][a-z0-9-]{0,39}$/

/** How many rehearsals there may be: each keeps its books in memory. */
const MOST = 20

/** All worlds of a broker: paper and live, which share one market and clock, and rehearsals over the same market. */
export class Worlds {
  private readonly rehearsals = new Map<string, World>()

  private constructor(
    readonly paper: World,
    readonly live: World,
    private readonly options: WorldOptions,
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

  /** Opens every world that lies in the data folder, and begins those that are always there. Throws JournalError. */
  static async open(options: WorldOptions): Promise<Worlds> {
    const { dataDir, seed, start } = options
    const paper = await World.open(options)
    const about = { ...options, seed, start }
    const live = await World.open({
      ...about,
      dataDir: join(dataDir, 'live'),
      name: 'live',
      environment: 'live',
      beside: paper,
    })
    const worlds = new Worlds(paper, live, options)
    const folder = join(dataDir, 'rehearsals')
    for (const name of await readdir(folder).catch(() => []))
      if (REHEARSAL.test(name)) await worlds.over(name)
    return worlds
  }

  /** A world by its name in paths: paper, live, or the id of a rehearsal. */
  rehearsal(id: string): World | undefined {
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
  async rehearse(id: string, start: string, startingCash: number): Promise<World> {
    if (!REHEARSAL.test(id)) throw new RangeError('An id is 1 to 40 small letters, digits or -')
    if (this.rehearsals.has(id)) throw new RangeError(`A rehearsal ${id} stands already; choose another id`)
    if (this.rehearsals.size >= MOST)
      throw new RangeError(`There are ${MOST} rehearsals; remove one that is done with`)
    const at = Date.parse(start)
    const first = this.markets.home.sessionsBegunBy(this.paper.clock.now())[0].open
    if (at > this.paper.clock.now()) throw new RangeError('A rehearsal begins at a moment that has passed')
    if (at < first)
      throw new RangeError(`The market begins at ${this.paper.timeText(first)}; choose a later start`)
    return this.over(id, { start, startingCash })
  }

  /** Takes a rehearsal away, with all that it holds. */
  async remove(id: string): Promise<void> {
    const world = this.rehearsals.get(id)!
    this.rehearsals.delete(id)
    await world.close()
    await rm(join(this.options.dataDir, 'rehearsals', id), { recursive: true, force: true })
  }

  /** Lets every world run on to the present; called several times a second. */
  async tick(): Promise<void> {
    for (const world of this.all) await world.tick()
  }

  async close(): Promise<void> {
    for (const world of this.all.toReversed()) await world.close()
  }
}
