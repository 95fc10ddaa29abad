import { createHash, randomBytes, scrypt, timingSafeEqual } from 'node:crypto'
import { BlockList, isIP } from 'node:net'
import { promisify } from 'node:util'
import { type Environment, type Scope } from '@/core/orders/access'

const derive = promisify(scrypt) as (secret: string, salt: Buffer, length: number) => Promise<Buffer>

/** What a key may do; whoever makes one may hand on at most his own. */
export interface Rights {
  scopes: Scope[]
  /** Accounts that it speaks for. */
  accounts: 'all' | string[]
  /** Venues (MIC) whose prices it may see. */
  venues: 'all' | string[]
}

/** A key as it is kept: the secret itself is not, only what it can be checked against. */
export interface Key extends Rights {
  keyId: string
  environment: Environment
  /** For people. */
  label: string
  /** When it was made, and when its secret was last renewed; wall time. */
  made: string
  renewed?: string
  /** How often its secret was renewed. */
  renewals: number
  /** Wall time after which it is not taken; for ever where left out. */
  expires?: string
  /** Addresses or networks (CIDR) from which alone it is taken. */
  addresses?: string[]
  /** Its secret may stand in a URL; such a key reads CSV and gets no access token. */
  forUrl?: true
  salt: string
  hash: string
}

export type KeyAsked = Pick<Key, 'label' | 'scopes' | 'expires' | 'addresses'> & Partial<Rights>

/** A key as the journal has it: that of an earlier build has a name and one account. */
export type KeptKey = Key | (Omit<Key, 'label' | 'accounts'> & { name: string; account: string })

/** A key as it was kept by this build or an earlier one, which knew no more than one account. */
export function keyOf(kept: KeptKey): Key {
  if ('label' in kept) return kept
  const { name, account: _one, ...key } = kept
  const { made = '', renewals = 0, venues = 'all' } = key
  return { ...key, label: name, accounts: 'all', venues, made, renewals }
}

async function secretFor(): Promise<{ secret: string; salt: string; hash: string }> {
  const secret = randomBytes(24).toString('base64url')
  const salt = randomBytes(16)
  const hash = await derive(secret, salt, 32)
  return { secret, salt: salt.toString('base64'), hash: hash.toString('base64') }
}

/** Makes a key; the secret is told this once. */
export async function makeKey(
  environment: Environment,
  { accounts = 'all', venues = 'all', ...asked }: KeyAsked,
  now: number,
): Promise<{ key: Key; secret: string }> {
  const { secret, ...proof } = await secretFor()
  const keyId = `${environment}-${randomBytes(6).toString('hex')}`
  const made = new Date(now).toISOString()
  return { key: { keyId, environment, ...asked, accounts, venues, made, renewals: 0, ...proof }, secret }
}

const digest = (secret: string): Buffer => createHash('sha256').update(secret).digest()

/** Makes a key whose secret may stand in a URL: `token` holds both. The secret is long and random, so that a plain digest of it is enough. */
export function makeUrlKey(
  environment: Environment,
  asked: Pick<Key, 'label' | 'scopes' | 'accounts' | 'venues'>,
  now: number,
): { key: Key; token: string } {
  const secret = randomBytes(24).toString('base64url')
  const keyId = `${environment}-csv-${randomBytes(6).toString('hex')}`
  const made = new Date(now).toISOString()
  const proof = { forUrl: true as const, salt: '', hash: digest(secret).toString('base64') }
  return { key: { keyId, environment, ...asked, made, renewals: 0, ...proof }, token: `${keyId}.${secret}` }
}

/** True if the secret in a URL belongs to a key. */
export const urlSecretFits = (key: Key, secret: string): boolean =>
  key.forUrl === true && timingSafeEqual(digest(secret), Buffer.from(key.hash, 'base64'))

/** The same key with another secret, which is told this once. */
export async function renewed(key: Key, now: number): Promise<{ key: Key; secret: string }> {
  const { secret, ...proof } = await secretFor()
  return {
    key: { ...key, ...proof, renewed: new Date(now).toISOString(), renewals: key.renewals + 1 },
    secret,
  }
}

/** True if a secret belongs to a key; takes the same time either way. */
export async function secretFits(key: Key, secret: string): Promise<boolean> {
  const hash = await derive(secret, Buffer.from(key.salt, 'base64'), 32)
  return timingSafeEqual(hash, Buffer.from(key.hash, 'base64'))
}

/** The first right that another set of rights does not hold; undefined where it holds them all. */
export function beyond(asked: Rights, own: Rights): string | undefined {
  const scope = asked.scopes.find((one) => !own.scopes.includes(one))
  if (scope) return `the scope ${scope}`
  for (const part of ['accounts', 'venues'] as const) {
    const [wanted, has] = [asked[part], own[part]]
    if (has === 'all') continue
    if (wanted === 'all') return `all ${part}`
    const more = wanted.find((one) => !has.includes(one))
    if (more) return `the ${part === 'accounts' ? 'account' : 'venue'} ${more}`
  }
  return undefined
}

export const covers = (right: 'all' | readonly string[], one: string): boolean =>
  right === 'all' || right.includes(one)

/** True of an address, or a network such as 10.0.0.0/8. */
export function isNetwork(text: string): boolean {
  const [address, length] = text.split('/')
  const version = isIP(address)
  if (version === 0) return false
  return length === undefined || (/^\d{1,3}$/.test(length) && Number(length) <= (version === 4 ? 32 : 128))
}

/** Whether a key is taken from an address; one of no address came from within the process. */
export function isFrom(addresses: readonly string[] | undefined, remote: string | undefined): boolean {
  if (!addresses || remote === undefined) return true
  const plain = remote.replace(/^::ffff:(?=\d+\.)/, '')
  const allowed = new BlockList()
  for (const text of addresses) {
    const [address, length] = text.split('/')
    const kind = isIP(address) === 4 ? 'ipv4' : 'ipv6'
    if (length === undefined) allowed.addAddress(address, kind)
    else allowed.addSubnet(address, Number(length), kind)
  }
  return allowed.check(plain, isIP(plain) === 4 ? 'ipv4' : 'ipv6')
}
