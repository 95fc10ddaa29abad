import { granted, type TokenSource } from '@/client'

/** Tokens for the demo's key, which stays on the server: the page asks its own server for them. */
export const demoTokens: TokenSource = async () =>
  granted(
    await fetch('/api/demo/token', { method: 'POST', headers: { 'X-Fleet-Heron': 'page' } }).catch(
      () => undefined,
    ),
  )
