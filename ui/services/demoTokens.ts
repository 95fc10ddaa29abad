import { granted, type TokenSource } from '@/client'
import { earlyToken, TOKEN_INIT, TOKEN_PATH } from './early'

/** Tokens for the demo's key, which stays on the server: the page asks its own server for them. */
export const demoTokens: TokenSource = async () =>
  granted((await earlyToken()) ?? (await fetch(TOKEN_PATH, TOKEN_INIT).catch(() => undefined)))
