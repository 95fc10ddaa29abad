import { type KeptKey } from './db'

/** Rounds of PBKDF2-SHA-256; the number that OWASP's Password Storage Cheat Sheet asks for (2023). */
const ROUNDS = 600_000

async function keyFrom(passphrase: string, salt: Uint8Array): Promise<CryptoKey> {
  const raw = await crypto.subtle.importKey('raw', new TextEncoder().encode(passphrase), 'PBKDF2', false, [
    'deriveKey',
  ])
  return crypto.subtle.deriveKey(
    { name: 'PBKDF2', hash: 'SHA-256', salt: salt as BufferSource, iterations: ROUNDS },
    raw,
    { name: 'AES-GCM', length: 256 },
    false,
    ['encrypt', 'decrypt'],
  )
}

/** Locks a secret with a passphrase (PBKDF2, then AES-256-GCM); neither can be got from the result. */
export async function lockSecret(
  secret: string,
  passphrase: string,
): Promise<NonNullable<KeptKey['locked']>> {
  const salt = crypto.getRandomValues(new Uint8Array(16))
  const iv = crypto.getRandomValues(new Uint8Array(12))
  const key = await keyFrom(passphrase, salt)
  const cipher = await crypto.subtle.encrypt({ name: 'AES-GCM', iv }, key, new TextEncoder().encode(secret))
  return { salt, iv, cipher: new Uint8Array(cipher) }
}

/** The secret, or undefined where the passphrase is not the one that locked it. */
export async function unlockSecret(
  locked: NonNullable<KeptKey['locked']>,
  passphrase: string,
): Promise<string | undefined> {
  const key = await keyFrom(passphrase, locked.salt)
  try {
    const text = await crypto.subtle.decrypt(
      { name: 'AES-GCM', iv: locked.iv as BufferSource },
      key,
      locked.cipher as BufferSource,
    )
    return new TextDecoder().decode(text)
  } catch {
    return undefined
  }
}
