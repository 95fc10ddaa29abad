import type * as Jest from '@jest/globals'
import '../properties'

/**
 * What a test takes from `@jest/globals`, as the plain runner gives it. That runner knows no limit of time: here is one, for
 * tests and for what goes before and after them.
 */
const given = globalThis as unknown as typeof Jest
export const { describe, expect, jest } = given

/** Tests wait for what they mean; this only keeps one that waits in vain from staying for ever, ms. */
const LIMIT = 300_000

type Tested = (...given: never[]) => unknown

/** The test, or what goes before or after it, which fails when its time is over. */
const inTime =
  (test: Tested) =>
  async (...given: never[]): Promise<unknown> => {
    let timer: NodeJS.Timeout | undefined
    const over = new Promise((_, reject) => {
      timer = setTimeout(() => reject(new Error(`It was not done after ${LIMIT / 1000} seconds.`)), LIMIT)
    })
    try {
      return await Promise.race([over, (async () => test(...given))()])
    } finally {
      clearTimeout(timer)
    }
  }

const hook = (name: 'afterAll' | 'afterEach' | 'beforeAll' | 'beforeEach') => (work: Tested) =>
  given[name](inTime(work))
export const [afterAll, afterEach] = [hook('afterAll'), hook('afterEach')]
export const [beforeAll, beforeEach] = [hook('beforeAll'), hook('beforeEach')]

const timed = (name: string, test: Tested): void => given.it(name, inTime(test))
const eachTimed =
  (...table: unknown[]) =>
  (name: string, test: Tested): void =>
    (given.it.each as unknown as (...table: unknown[]) => (name: string, test: Tested) => void)(...table)(
      name,
      inTime(test),
    )

/** A test that is run alone, or left out, while somebody looks for a fault. */
const marked = (mark: 'only' | 'skip') => (name: string, test: Tested) => given.it[mark](name, inTime(test))

export const it = Object.assign(timed, { each: eachTimed, only: marked('only'), skip: marked('skip') })
