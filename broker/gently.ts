/** Milliseconds of work after which the others get their turn. */
const TURN = 12

/**
 * Runs work that is cut into steps, giving way between them: orders and other requests are answered while a long
 * answer is being made. A step should take a millisecond or two.
 */
export async function gently<T>(steps: Generator<unknown, T>): Promise<T> {
  let began = performance.now()
  for (;;) {
    const step = steps.next()
    if (step.done) return step.value
    if (performance.now() - began < TURN) continue
    await giveWay()
    began = performance.now()
  }
}

/** Lets everything that waits go first. */
export const giveWay = (): Promise<void> => new Promise((resolve) => setImmediate(resolve))

/** Runs work that is cut into steps in one go. */
export function atOnce<T>(steps: Generator<unknown, T>): T {
  for (;;) {
    const step = steps.next()
    if (step.done) return step.value
  }
}
