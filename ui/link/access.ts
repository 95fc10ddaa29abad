import { BrokerProblem, problemOf, unreachable } from './problem'

/** Where tokens come from: the demo's key, which stays on the server, or a key of the trader's own. */
export type Credentials = { is: 'demo' } | { is: 'own'; keyId: string; secret: string }

interface Held {
  token: string
  until: number
  keyId: string
}

/** Asked for again this long before a token ends. */
const EARLY = 30_000

/** Holds the current token in memory and renews it; never writes it or the secret anywhere. */
export class Access {
  private held: Held | undefined
  private asking: Promise<Held> | undefined

  constructor(
    readonly brokerUrl: string,
    private credentials: Credentials,
  ) {}

  get keyId(): string | undefined {
    return this.credentials.is === 'own' ? this.credentials.keyId : this.held?.keyId
  }

  get isDemo(): boolean {
    return this.credentials.is === 'demo'
  }

  /** Changes to another key once the broker has taken it. Throws BrokerProblem and keeps the old one else. */
  async use(credentials: Credentials): Promise<void> {
    this.held = await this.request(credentials)
    this.credentials = credentials
  }

  async token(): Promise<string> {
    if (this.held && this.held.until - EARLY > Date.now()) return this.held.token
    this.asking ??= this.request(this.credentials).finally(() => (this.asking = undefined))
    this.held = await this.asking
    return this.held.token
  }

  /** Forgets the token, so that the next request asks for a new one. */
  forget(): void {
    this.held = undefined
  }

  private async request(credentials: Credentials): Promise<Held> {
    const demo = credentials.is === 'demo'
    const answer = await fetch(demo ? '/api/demo/token' : `${this.brokerUrl}/paper/token`, {
      method: 'POST',
      ...(demo
        ? { headers: { 'X-Fleet-Heron': 'page' } }
        : {
            headers: {
              Authorization: `Basic ${btoa(`${encodeURIComponent(credentials.keyId)}:${encodeURIComponent(credentials.secret)}`)}`,
              'Content-Type': 'application/x-www-form-urlencoded',
            },
            body: 'grant_type=client_credentials',
          }),
    }).catch(() => undefined)
    if (!answer || answer.status === 503) throw unreachable()
    if (!answer.ok) throw await problemOf(answer)
    const body = (await answer.json()) as { access_token: string; expires_in: number; keyId?: string }
    if (typeof body.access_token !== 'string')
      throw new BrokerProblem('unknown', 'No token', 'The broker gave no token.', 'Try again.', answer.status)
    return {
      token: body.access_token,
      until: Date.now() + body.expires_in * 1000,
      keyId: demo ? (body.keyId ?? '') : credentials.keyId,
    }
  }
}
