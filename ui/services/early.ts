/** What was asked for while the page was still being read, so that it is there when the page wants it. */
interface Early {
  token: Promise<Response> | undefined
  /** Answers of the broker by path. */
  answers: Record<string, Promise<Response> | undefined>
}

declare global {
  interface Window {
    heronEarly?: Early | undefined
  }
}

/** How the page asks its own server for a token of the demo's key. */
export const TOKEN_PATH = '/api/demo/token'
export const TOKEN_INIT = { method: 'POST', headers: { 'X-Fleet-Heron': 'page' } } as const

/** What every screen waits for. */
const PATHS = ['/securities', '/venues']

/** A script for the head of the page that asks at once for a token, and with it for what every screen waits for. */
export function earlyScript(brokerUrl: string): string {
  const [url, path, init, paths] = [brokerUrl, TOKEN_PATH, TOKEN_INIT, PATHS].map((value) =>
    JSON.stringify(value).replaceAll('<', '\\u003c'),
  )
  return `(function () {
  var quiet = function (p) { p.catch(function () {}); return p };
  var token = quiet(fetch(${path}, ${init}));
  var grant = quiet(token.then(function (a) { return a.clone().json() }));
  var answers = {};
  ${paths}.forEach(function (p) {
    answers[p] = quiet(grant.then(function (g) {
      return fetch(${url} + '/paper' + p, { headers: { Authorization: 'Bearer ' + g.access_token }, cache: 'no-store' })
    }));
  });
  // Wakes what the browser keeps, which the page reads from as soon as it can.
  if (indexedDB.databases) quiet(indexedDB.databases());
  window.heronEarly = { token: token, answers: answers };
})()`
}

/** The first token, once; undefined where it was not asked for, or did not come. */
export async function earlyToken(): Promise<Response | undefined> {
  const early = typeof window === 'undefined' ? undefined : window.heronEarly
  const asked = early?.token
  if (early) early.token = undefined
  const answer = await asked?.catch(() => undefined)
  return answer?.ok ? answer : undefined
}

/** The broker's first answer to a path, once; undefined where it was not asked for, or did not come. */
export async function earlyAnswer(path: string): Promise<Response | undefined> {
  const answers = typeof window === 'undefined' ? undefined : window.heronEarly?.answers
  const asked = answers?.[path]
  if (!asked || !answers) return undefined
  answers[path] = undefined
  const answer = await asked.catch(() => undefined)
  return answer?.ok ? answer : undefined
}
