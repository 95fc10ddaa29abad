import * as z from 'zod'
import { BrokerProblem, problemOf, unreachable } from './problem'

/** A token as it was given, with how long it holds and the key it speaks for. */
export interface Granted {
  token: string
  /** Seconds. */
  expiresIn: number
  keyId: string
}

/** Where tokens come from: a key of one's own, or whoever holds one. Throws BrokerProblem. */
export type TokenSource = () => Promise<Granted>

/** Tokens for a key of the world at a base path (see Access), by OAuth 2.0 client credentials (RFC 6749, section 4.4). */
export const keyTokens =
  (base: string, keyId: string, secret: string): TokenSource =>
  async () => {
    const basic = btoa(`${encodeURIComponent(keyId)}:${encodeURIComponent(secret)}`)
    const answer = await fetch(`${base}/token`, {
      method: 'POST',
      headers: {
        Authorization: `Basic ${basic}`,
        'Content-Type': 'application/x-www-form-urlencoded',
      },
      body: 'grant_type=client_credentials',
    }).catch(() => undefined)
    return { ...(await granted(answer)), keyId }
  }

const Grant = z.object({ access_token: z.string(), expires_in: z.number(), keyId: z.string().default('') })

/** Reads the answer of whoever gives tokens. Throws BrokerProblem. */
export async function granted(answer: Response | undefined): Promise<Granted> {
  if (!answer) throw unreachable()
  if (!answer.ok) {
    const problem = await problemOf(answer)
    // A broker that is starting is not there yet; one whose world is out of service says why.
    throw answer.status === 503 && problem.kind !== 'out-of-service' ? unreachable() : problem
  }
  const grant = Grant.safeParse(await answer.json().catch(() => undefined))
  if (!grant.success)
    throw new BrokerProblem('unknown', 'No token', 'The broker gave no token.', 'Try again.', answer.status)
  const { access_token: token, expires_in: expiresIn, keyId } = grant.data
  return { token, expiresIn, keyId }
}

interface Token {
  token: string
  until: number
  keyId: string
}

/** Asked for again this long before a token ends. */
const EARLY = 30_000

/** Which world a client talks to. Paper unless another is named outright. */
export type WorldName = 'paper' | 'live' | `rehearsals/${string}`

/** What every path in a world begins with. */
export const baseOf = (brokerUrl: string, world: WorldName = 'paper'): string => `${brokerUrl}/${world}`

/** Holds the current token in memory and renews it; never writes it or the secret anywhere. */
export class Access {
  /** What every path begins with: the broker's address and the world. */
  readonly base: string
  private current: Token | undefined
  private asking: Promise<Token> | undefined

  constructor(
    readonly brokerUrl: string,
    public source: TokenSource,
    readonly world: WorldName = 'paper',
  ) {
    this.base = baseOf(brokerUrl, world)
  }

  /** The key that speaks, once there is a token. */
  get keyId(): string | undefined {
    return this.current?.keyId
  }

  /** Changes to another key once the broker has taken it. Throws BrokerProblem and keeps the old one else. */
  async use(source: TokenSource): Promise<void> {
    this.current = await this.request(source)
    this.source = source
  }

  async token(): Promise<string> {
    if (this.current && this.current.until - EARLY > Date.now()) return this.current.token
    this.asking ??= this.request(this.source).finally(() => (this.asking = undefined))
    this.current = await this.asking
    return this.current.token
  }

  /** Forgets the token, so that the next request asks for a new one. */
  forget(): void {
    this.current = undefined
  }

  private async request(source: TokenSource): Promise<Token> {
    const { token, expiresIn, keyId } = await source()
    return { token, until: Date.now() + expiresIn * 1000, keyId }
  }
}
