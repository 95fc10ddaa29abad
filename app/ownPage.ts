import { type NextRequest } from 'next/server'

/** Hosts that are this machine; a page of another name must not be answered by pointing its name here. */
const HERE = /^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/

/** Sent by this application's own page: a header of its own, which no other site's page can send without being asked. */
const OWN_HEADER = 'x-fleet-heron'

/** Whether three signs that do not depend on one another say that the application's own page asks. */
export function isOwnPage({ headers }: NextRequest): boolean {
  const host = headers.get('host') ?? ''
  const [site, origin] = [headers.get('sec-fetch-site'), headers.get('origin')]
  if (!HERE.test(host) || headers.get(OWN_HEADER) !== 'page') return false
  return (site === null || site === 'same-origin') && (origin === null || origin === `http://${host}`)
}
