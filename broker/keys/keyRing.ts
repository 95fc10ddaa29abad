import { type Environment } from '@/core/orders/access'
import { type Entry } from '../journal/entries'
import { type WorldState } from '../worldState'
import { type Key, type KeyAsked, makeKey, makeUrlKey, renewed, urlSecretFits } from './keys'

/** Real milliseconds after which the use of a key is written down again. */
const USE_KEPT_EVERY = 60_000

/** Keys of a world: made, renewed, withdrawn and used; each change is on the disk when it resolves. */
export class KeyRing {
  constructor(
    private readonly state: Pick<WorldState, 'keys' | 'lastUse'>,
    private readonly environment: Environment,
    private readonly real: () => number,
    private readonly write: (entry: Entry) => void,
    private readonly act: <T>(change: () => T) => Promise<T>,
  ) {}

  /** When a token of each key last asked for something; wall time. */
  get lastUse(): ReadonlyMap<string, number> {
    return this.state.lastUse
  }

  async create(asked: KeyAsked): Promise<{ key: Key; secret: string }> {
    const made = await makeKey(this.environment, asked, this.real())
    await this.keep(made.key)
    return made
  }

  /** Makes a key whose secret may stand in a URL. */
  async createForUrl(
    asked: Pick<Key, 'label' | 'scopes' | 'accounts' | 'venues'>,
  ): Promise<{ key: Key; token: string }> {
    const made = makeUrlKey(this.environment, asked, this.real())
    await this.keep(made.key)
    return made
  }

  /** The key that a token in a URL is of; undefined where there is none such. */
  ofUrl(token: string): Key | undefined {
    const dot = token.indexOf('.')
    const key = this.state.keys.get(token.slice(0, dot))
    return key && urlSecretFits(key, token.slice(dot + 1)) ? key : undefined
  }

  /** Gives a key another secret; the one before is not taken any more. */
  async renew(key: Key): Promise<{ key: Key; secret: string }> {
    const made = await renewed(key, this.real())
    await this.keep(made.key)
    return made
  }

  keep = (key: Key): Promise<void> =>
    this.act(() => {
      this.state.keys.set(key.keyId, key)
      this.write({ is: 'key', key })
    })

  withdraw = (keyId: string): Promise<void> =>
    this.act(() => {
      this.state.keys.delete(keyId)
      this.write({ is: 'key withdrawn', keyId })
    })

  /** Notes that a key is used; written down with whatever is written next, not more than once a minute. */
  use(keyId: string): void {
    const [at, before] = [this.real(), this.state.lastUse.get(keyId) ?? -Infinity]
    if (at - before < USE_KEPT_EVERY) return
    this.state.lastUse.set(keyId, at)
    this.write({ is: 'key used', keyId, at })
  }
}
