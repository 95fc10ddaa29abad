import { randomBytes } from 'node:crypto'
import { chmod, readFile, writeFile } from 'node:fs/promises'
import { jwtVerify, SignJWT } from 'jose'
import { JWTExpired } from 'jose/errors'
import { type Environment, type Scope } from '@/core/orders/access'
import { isFull } from '../journal/reserve'

/** Who a token speaks for. */
export interface Bearer {
  keyId: string
  environment: Environment
  scopes: Scope[]
  /** How often the key's secret had been renewed: a token of an earlier secret is not taken. */
  renewals: number
}

/** Tokens that were verified, so that a client's next request need not wait for the signature again. */
const MOST_KNOWN = 1_000

/** Issues and reads short-lived tokens (JWT, RFC 7519, signed with a secret of this broker's own). */
export class Tokens {
  private readonly known = new Map<string, { bearer: Bearer; expires: number }>()

  private constructor(
    private readonly signingKey: Uint8Array,
    readonly lifetimeSeconds: number,
    private readonly real: () => number,
  ) {}

  /** Keeps its signing secret in a file, so that tokens outlive a restart of the broker. */
  static async open(path: string, lifetimeSeconds: number, real: () => number): Promise<Tokens> {
    let secret = await readFile(path).catch(() => undefined)
    if (!secret || secret.length < 32) {
      secret = randomBytes(32)
      // On a full disk the secret lasts as long as this process does.
      await writeFile(path, secret, { mode: 0o600 })
        .then(() => chmod(path, 0o600))
        .catch((error: unknown) => {
          if (!isFull(error)) throw error
        })
    }
    return new Tokens(new Uint8Array(secret), lifetimeSeconds, real)
  }

  async issue(bearer: Bearer): Promise<string> {
    const now = Math.floor(this.real() / 1000)
    return new SignJWT({ env: bearer.environment, scope: bearer.scopes.join(' '), renewals: bearer.renewals })
      .setProtectedHeader({ alg: 'HS256' })
      .setSubject(bearer.keyId)
      .setIssuedAt(now)
      .setExpirationTime(now + this.lifetimeSeconds)
      .sign(this.signingKey)
  }

  /** Who the token speaks for, or why it is not taken. */
  async read(token: string): Promise<Bearer | 'expired' | 'unknown'> {
    const before = this.known.get(token)
    if (before) return this.real() < before.expires ? before.bearer : 'expired'
    try {
      const { payload } = await jwtVerify(token, this.signingKey, {
        algorithms: ['HS256'],
        currentDate: new Date(this.real()),
      })
      const bearer = {
        keyId: payload.sub!,
        environment: payload.env as Environment,
        scopes: String(payload.scope).split(' ') as Scope[],
        renewals: Number(payload.renewals ?? 0),
      }
      if (this.known.size >= MOST_KNOWN) this.known.clear()
      this.known.set(token, { bearer, expires: payload.exp! * 1000 })
      return bearer
    } catch (error) {
      return error instanceof JWTExpired ? 'expired' : 'unknown'
    }
  }
}
