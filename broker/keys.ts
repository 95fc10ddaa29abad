import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto'
import { chmod, readFile, writeFile } from 'node:fs/promises'
import { promisify } from 'node:util'
import { jwtVerify, SignJWT } from 'jose'
import { JWTExpired } from 'jose/errors'

const derive = promisify(scrypt) as (secret: string, salt: Buffer, length: number) => Promise<Buffer>

export const SCOPES = ['see-market', 'see-account', 'send-orders', 'manage-keys'] as const
export type Scope = (typeof SCOPES)[number]
export type Environment = 'paper' | 'live'

/** A key as it is kept: the secret itself is not, only what it can be checked against. */
export interface Key {
  keyId: string
  environment: Environment
  account: string
  scopes: Scope[]
  name: string
  salt: string
  hash: string
}

/** Makes a key; the secret is told this once. */
export async function makeKey(
  about: Pick<Key, 'environment' | 'account' | 'scopes' | 'name'>,
): Promise<{ key: Key; secret: string }> {
  const keyId = `${about.environment}-${randomBytes(6).toString('hex')}`
  const secret = randomBytes(24).toString('base64url')
  const salt = randomBytes(16)
  const hash = await derive(secret, salt, 32)
  return { key: { keyId, ...about, salt: salt.toString('base64'), hash: hash.toString('base64') }, secret }
}

/** True if a secret belongs to a key; takes the same time either way. */
export async function secretFits(key: Key, secret: string): Promise<boolean> {
  const hash = await derive(secret, Buffer.from(key.salt, 'base64'), 32)
  return timingSafeEqual(hash, Buffer.from(key.hash, 'base64'))
}

/** Who a token speaks for. */
export interface Bearer {
  keyId: string
  environment: Environment
  account: string
  scopes: Scope[]
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
      await writeFile(path, secret, { mode: 0o600 })
      await chmod(path, 0o600)
    }
    return new Tokens(new Uint8Array(secret), lifetimeSeconds, real)
  }

  async issue(bearer: Bearer): Promise<string> {
    const now = Math.floor(this.real() / 1000)
    return new SignJWT({ env: bearer.environment, account: bearer.account, scope: bearer.scopes.join(' ') })
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
        account: payload.account as string,
        scopes: String(payload.scope).split(' ') as Scope[],
      }
      if (this.known.size >= MOST_KNOWN) this.known.clear()
      this.known.set(token, { bearer, expires: payload.exp! * 1000 })
      return bearer
    } catch (error) {
      return error instanceof JWTExpired ? 'expired' : 'unknown'
    }
  }
}
