import { TestEnvironment } from 'jest-environment-jsdom'

/** A browser's document beside what both browsers and Node have and jsdom does not hand on. */
const SHARED = [
  ...['TransformStream', 'ReadableStream', 'TextEncoder', 'TextDecoder', 'TextDecoderStream'],
  ...['structuredClone', 'fetch', 'Request', 'Response', 'Headers', 'Uint8Array', 'ArrayBuffer'],
]

export default class ScreenEnvironment extends TestEnvironment {
  async setup() {
    await super.setup()
    for (const name of SHARED) this.global[name] = globalThis[name]
  }
}
