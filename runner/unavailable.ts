/** Thrown where a plan or a search names what the broker does not have; the message says what, and the mend. */
export class Unavailable extends Error {
  override name = 'Unavailable'
}
