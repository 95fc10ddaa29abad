import * as z from 'zod'

/** What a tab asks of the one that leads, as plain data. */
type Asking = Readonly<Record<string, unknown>>

const Said = z.discriminatedUnion('is', [
  /** Something was begun: others may have to take it over. */
  z.object({ is: z.literal('begun'), of: z.string() }),
  z.object({
    is: z.literal('ask'),
    of: z.string(),
    id: z.string(),
    asking: z.record(z.string(), z.unknown()),
  }),
  z.object({ is: z.literal('heard'), id: z.string() }),
  z.object({ is: z.literal('answer'), id: z.string(), value: z.unknown(), why: z.string().optional() }),
])
type Said = z.infer<typeof Said>

/** What leads answers at once that it has heard, and then takes its time, milliseconds. */
const SILENCE = 5_000

const lockOf = (of: string): string => `heron-plans ${of}`

/**
 * One tab of a browser leads for an account: it holds a Web Lock while it does, and others ask it by a channel. When it closes, one
 * of those that wait leads in its place. `of` is environment and account, as one word; a tab may lead for several.
 */
export class Lead {
  private channel: BroadcastChannel | undefined
  /** Gives the lock of an account back, by account. */
  private readonly releases = new Map<string, () => void>()
  private ended = new AbortController()
  private readonly waitsFor = new Set<string>()
  private readonly asked = new Map<
    string,
    { heard(): void; take(value: unknown): void; fail(error: Error): void }
  >()

  constructor(
    /** Does what another tab asks for an account; its answer is plain data. Throws Error. */
    private readonly does: (of: string, asking: Asking) => Promise<unknown>,
    /** This tab leads for an account from now on, since the one before is gone. */
    private readonly takesOver: (of: string) => Promise<void>,
  ) {}

  start(): void {
    this.ended = new AbortController()
    this.channel = new BroadcastChannel('heron-plans')
    this.channel.addEventListener('message', ({ data }) => {
      const said = Said.safeParse(data)
      if (said.success) this.hear(said.data)
    })
  }

  /** Hears and waits for nothing more; what it leads it leads until it leaves that. */
  end(): void {
    this.ended.abort()
    this.channel?.close()
  }

  /** Accounts that some tab leads for, this one included, and those that some tab waits to lead for. */
  static async ledNow(): Promise<{ isLed(of: string): boolean; hasHeir(of: string): boolean }> {
    const { held = [], pending = [] } = await navigator.locks.query()
    const among = (locks: LockInfo[]) => (of: string) => locks.some(({ name }) => name === lockOf(of))
    return { isLed: among(held), hasHeir: among(pending) }
  }

  leadsFor(of: string): boolean {
    return this.releases.has(of)
  }

  /** Leads for an account from now on, if no other tab does; false if one does. */
  async lead(of: string): Promise<boolean> {
    if (this.leadsFor(of)) return true
    return new Promise((resolve, reject) => {
      navigator.locks
        .request(lockOf(of), { ifAvailable: true }, (lock) => {
          if (!lock) return void resolve(false)
          const held = this.hold(of)
          resolve(true)
          return held
        })
        .catch(reject)
    })
  }

  private hold(of: string): Promise<void> {
    return new Promise((release) => this.releases.set(of, release))
  }

  /** Leads for an account no more; another tab may. */
  leave(of: string): void {
    this.releases.get(of)?.()
    this.releases.delete(of)
  }

  /** Tells others that something runs here. */
  tellBegun(of: string): void {
    this.say({ is: 'begun', of })
  }

  /** Waits to lead for an account once the tab that does is gone. */
  wait(of: string): void {
    if (this.waitsFor.has(of) || this.leadsFor(of)) return
    this.waitsFor.add(of)
    const { signal } = this.ended
    navigator.locks
      .request(lockOf(of), { signal }, async () => {
        this.waitsFor.delete(of)
        const held = this.hold(of)
        await this.takesOver(of)
        await held
      })
      .catch(() => this.waitsFor.delete(of))
  }

  /** Asks the tab that leads for an account. Throws Error with what it says, or that it says nothing. */
  ask(of: string, asking: Asking): Promise<unknown> {
    const id = crypto.randomUUID()
    return new Promise((resolve, reject) => {
      const silent = setTimeout(() => {
        this.asked.delete(id)
        reject(new Error('The tab that runs the plans does not answer. Close it, and try again.'))
      }, SILENCE)
      const over = () => {
        clearTimeout(silent)
        this.asked.delete(id)
      }
      this.asked.set(id, {
        heard: () => clearTimeout(silent),
        take: (value) => (over(), resolve(value)),
        fail: (error) => (over(), reject(error)),
      })
      this.say({ is: 'ask', of, id, asking })
    })
  }

  private say(said: Said): void {
    this.channel?.postMessage(said)
  }

  private hear(said: Said): void {
    if (said.is === 'begun') this.wait(said.of)
    else if (said.is === 'ask') {
      if (this.leadsFor(said.of)) void this.answer(said.of, said.id, said.asking)
    } else {
      const asked = this.asked.get(said.id)
      if (said.is === 'heard') asked?.heard()
      else if (said.why === undefined) asked?.take(said.value)
      else asked?.fail(new Error(said.why))
    }
  }

  private async answer(of: string, id: string, asking: Asking): Promise<void> {
    this.say({ is: 'heard', id })
    try {
      this.say({ is: 'answer', id, value: await this.does(of, asking) })
    } catch (error) {
      this.say({ is: 'answer', id, value: undefined, why: (error as Error).message })
    }
  }
}
