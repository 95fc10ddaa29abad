import { type Context } from 'hono'
import { stream } from 'hono/streaming'
import { giveWay } from '../gently'
import { type Listed } from '../market/listing'
import { Problem } from './problems'

/** Milliseconds of work after which what is there is sent and the others get their turn. */
const TURN = 8

/** Securities that one stream of quotes follows. */
const MOST_FOLLOWED = 1_000

/**
 * Answers with a JSON list that is made while it is sent: as long as it may be, others are answered between. What can
 * fail must have been checked before.
 */
export function jsonList(c: Context, items: Iterable<unknown>): Response {
  c.header('Content-Type', 'application/json')
  return stream(c, async (out) => {
    let text = '['
    let first = true
    let began = performance.now()
    for (const item of items) {
      text += `${first ? '' : ','}${JSON.stringify(item)}`
      first = false
      if (performance.now() - began < TURN) continue
      if (out.aborted) return
      await out.write(text)
      text = ''
      await giveWay()
      began = performance.now()
    }
    await out.write(`${text}]`)
  })
}

/** Link to the rest of a cut answer: the same query with one field changed, and without the CSV token. */
export function restOf(c: Context, field: string, value: string): string {
  const { pathname, searchParams } = new URL(c.req.url)
  searchParams.delete('csvToken')
  searchParams.set(field, value)
  return `${pathname}?${searchParams}`
}

/** Sets the headers that say that an answer was cut, and where the rest is. */
export function tellCut(c: Context, what: string, rest: string): void {
  c.header('Heron-Cut', what)
  c.header('Link', `<${rest}>; rel="next"`)
}

/** Each of some things made into another, one at a time as it is asked for. */
export function* each<A, B>(from: Iterable<A>, make: (one: A) => B): Generator<B> {
  for (const one of from) yield make(one)
}

/** Throws Problem where more securities are to be followed than one stream takes. */
export function checkFollowed(list: readonly Listed[]): void {
  if (list.length > MOST_FOLLOWED)
    throw new Problem(
      'answer-too-long',
      `${list.length} securities are too many to follow in one stream.`,
      `Name at most ${MOST_FOLLOWED} with symbols=…; /quotes gives all of them once.`,
    )
}
