import { type Context, type MiddlewareHandler } from 'hono'
import { writeCsv } from '@/core/formats/csv'
import { type Env } from './access'

type Cell = string | number | undefined

/** A value as cells: what lies within it is named by dots, lists are told as text. */
function flatten(value: unknown, name: string, into: Record<string, Cell>): void {
  if (value === null || value === undefined) return
  if (Array.isArray(value))
    into[name] = value.every((one) => typeof one !== 'object') ? value.join(' ') : JSON.stringify(value)
  else if (typeof value === 'object')
    for (const [key, part] of Object.entries(value)) flatten(part, name ? `${name}.${key}` : key, into)
  else into[name] = typeof value === 'number' ? value : String(value)
}

/** Rows of an answer: one for each of a list, one for what is no list. */
export function csvOf(answer: unknown): string {
  const rows = (Array.isArray(answer) ? answer : [answer]).map((one) => {
    const cells: Record<string, Cell> = {}
    flatten(one, typeof one === 'object' ? '' : 'value', cells)
    return cells
  })
  const columns = [...new Set(rows.flatMap(Object.keys))]
  return writeCsv(
    columns,
    rows.map((row) => columns.map((column) => row[column])),
  )
}

/** Whether an answer is wanted as CSV. */
export const wantsCsv = (c: Context): boolean =>
  c.req.method === 'GET' && new URL(c.req.url).searchParams.get('format') === 'csv'

/**
 * Answers any list, and any object as a list of one, as CSV where `format=csv` asks for it. One that was cut says so in its
 * last line, and where the rest is.
 */
export const asCsv: MiddlewareHandler<Env> = async function asCsv(c, next) {
  await next()
  if (!wantsCsv(c) || c.res.status !== 200) return
  if (!c.res.headers.get('Content-Type')?.startsWith('application/json')) return
  const headers = new Headers(c.res.headers)
  headers.set('Content-Type', 'text/csv; charset=utf-8')
  headers.delete('Content-Length')
  const text = csvOf(await c.res.json())
  const cut = headers.get('Heron-Cut')
  const rest = /<([^>]+)>/.exec(headers.get('Link') ?? '')?.[1]
  const last = cut ? `# cut: ${cut}${rest ? `; the rest is at ${rest}` : ''}\r\n` : ''
  c.res = new Response(text + last, { status: 200, headers })
}
