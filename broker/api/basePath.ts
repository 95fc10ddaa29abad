import { type World } from '../world'
import { type Worlds } from '../worlds'
import { Problem } from './problems'

/** What a path begins with that names a world. */
const BASE = /^\/(?:(paper|live)|rehearsals\/([^/]+))(?=\/|$)/

/** The path of a URL, without host, query and fragment. */
function pathOf(url: string): string {
  const start = url.indexOf('/', url.indexOf('://') + 3)
  if (start < 0) return '/'
  const end = url.slice(start).search(/[?#]/)
  return end < 0 ? url.slice(start) : url.slice(start, start + end)
}

/** The path under its world, by which routes are found: /paper/orders and /live/orders are both /orders. */
export const pathUnderWorld = ({ url }: { url: string }): string => {
  const path = pathOf(url)
  return path.replace(BASE, '') || '/'
}

/** The id in a URL that is exactly /rehearsals/{id}. */
export const rehearsalAlone = (url: string): string | undefined =>
  /^\/rehearsals\/([^/]+)\/?$/.exec(pathOf(url))?.[1]

/** The world that a URL names; undefined where it names none. Throws Problem for a rehearsal that is not there. */
export function worldIn(worlds: Worlds, url: string, method: string): World | undefined {
  const named = BASE.exec(pathOf(url))
  if (!named) return undefined
  const [, fixed, id] = named
  if (fixed) return fixed === 'paper' ? worlds.paper : worlds.live
  // A rehearsal that could not be opened can still be deleted, with a paper key.
  if (method === 'DELETE' && worlds.isUnread(id) && rehearsalAlone(url)) return worlds.paper
  const found = worlds.rehearsal(id)
  if (found) return found
  throw new Problem(
    'not-found',
    `There is no rehearsal ${id.slice(0, 40)}.`,
    'GET /rehearsals lists those there are; POST /rehearsals begins one.',
  )
}
