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
 * of those that wait leads in its place.
 */
export class Lead {
  private channel: BroadcastChannel | undefined
  private release: (() => void) | undefined
  private leadsFor: string | undefined
  private ended = new AbortController()
  private readonly waitsFor = new Set<string>()
  private readonly asked = new Map<
    string,
    { heard(): void; take(value: unknown): void; fail(error: Error): void }
  >()

  constructor(
    /** Environment and account, as one word. */
    private readonly of: () => string,
    /** Does what another tab asks for; its answer is plain data. Throws Error. */
    private readonly does: (asking: Asking) => Promise<unknown>,
    /** This tab leads from now on, since the one before is gone. */
    private readonly takesOver: () => Promise<void>,
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

  /** Accounts that some tab leads for, this one included. */
  static async ledNow(): Promise<(of: string) => boolean> {
    const { held = [] } = await navigator.locks.query()
    return (of) => held.some(({ name }) => name === lockOf(of))
  }

  /** Leads from now on, where no other tab does; false where one does. */
  async lead(): Promise<boolean> {
    const of = this.of()
    if (this.leadsFor === of) return true
    this.leave()
    return new Promise((resolve, reject) => {
      navigator.locks
        .request(lockOf(of), { ifAvailable: true }, (lock) => {
          if (!lock) return void resolve(false)
          resolve(true)
          return this.hold(of)
        })
        .catch(reject)
    })
  }

  private hold(of: string): Promise<void> {
    this.leadsFor = of
    return new Promise((release) => (this.release = release))
  }

  /** Leads no more; another tab may. */
  leave(): void {
    this.release?.()
    this.release = this.leadsFor = undefined
  }

  /** Tells others that something runs here. */
  tellBegun(): void {
    this.say({ is: 'begun', of: this.of() })
  }

  /** Waits to lead once the tab that does is gone. */
  wait(of = this.of()): void {
    if (this.waitsFor.has(of) || this.leadsFor === of) return
    this.waitsFor.add(of)
    const { signal } = this.ended
    navigator.locks
      .request(lockOf(of), { signal }, async () => {
        this.waitsFor.delete(of)
        if (of !== this.of()) return
        const held = this.hold(of)
        await this.takesOver()
        await held
      })
      .catch(() => this.waitsFor.delete(of))
  }

  /** Asks the tab that leads. Throws Error with what it says, or that it says nothing. */
  ask(asking: Asking): Promise<unknown> {
    const id = crypto.randomUUID()
    return new Promise((resolve, reject) => {
      const silent = setTimeout(() => {
        this.asked.delete(id)
        reject(new Error('The tab in which plans run does not answer. Close it, and try again.'))
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
      this.say({ is: 'ask', of: this.of(), id, asking })
    })
  }

  private say(said: Said): void {
    this.channel?.postMessage(said)
  }

  private hear(said: Said): void {
    if (said.is === 'begun') {
      if (said.of === this.of()) this.wait()
    } else if (said.is === 'ask') {
      if (said.of === this.leadsFor) void this.answer(said.id, said.asking)
    } else {
      const asked = this.asked.get(said.id)
      if (said.is === 'heard') asked?.heard()
      else if (said.why === undefined) asked?.take(said.value)
      else asked?.fail(new Error(said.why))
    }
  }

  private async answer(id: string, asking: Asking): Promise<void> {
    this.say({ is: 'heard', id })
    try {
      this.say({ is: 'answer', id, value: await this.does(asking) })
    } catch (error) {
      this.say({ is: 'answer', id, value: undefined, why: (error as Error).message })
    }
  }
}
