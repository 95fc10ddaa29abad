/**
 * A client order id made of what an order is for: which program, which security, which session, which signal. The same
 * four always make the same id, so that an order that is sent again is refused instead of doubled. Throws RangeError
 * where they come to more than 64 characters.
 */
export function clOrdIdOf(program: string, security: string, session: string, signal: string): string {
  const id = [program, security, session, signal]
    .map((part) => part.trim().replace(/[^A-Za-z0-9._:]+/g, '-'))
    .join('-')
  if (id.length > 64)
    throw new RangeError(`The client order id "${id}" has ${id.length} characters; 64 are the most`)
  return id
}
