import { granted, type TokenSource } from '@/client'

/** Asked while the page is still being read, so that it is there when the page wants it (see EARLY_TOKEN). */
declare global {
  interface Window {
    heronEarlyToken?: Promise<Response> | undefined
  }
}

const ASK = `fetch('/api/demo/token', { method: 'POST', headers: { 'X-Fleet-Heron': 'page' } })`

/** A line of script for the head of the page: asks for the first token at once. The answer stays in memory. */
export const EARLY_TOKEN = `window.heronEarlyToken = ${ASK}; window.heronEarlyToken.catch(function () {})`

/** Tokens for the demo's key, which stays on the server: the page asks its own server for them. */
export const demoTokens: TokenSource = async () => {
  const early = typeof window === 'undefined' ? undefined : window.heronEarlyToken
  if (early) {
    window.heronEarlyToken = undefined
    const answer = await early.catch(() => undefined)
    if (answer?.ok) return granted(answer)
  }
  return granted(
    await fetch('/api/demo/token', { method: 'POST', headers: { 'X-Fleet-Heron': 'page' } }).catch(
      () => undefined,
    ),
  )
}
