import vm from 'node:vm'
import { TestEnvironment } from 'jest-environment-node'

/**
 * Node's usual environment in a context of the plain kind, where the engine has it: reading `Math` or `Number` in the other kind
 * leads through a hook each time, and what computes takes three times as long.
 */
const usual = vm.createContext
const { DONT_CONTEXTIFY } = vm.constants ?? {}

export default class PlainEnvironment extends TestEnvironment {
  constructor(config, context) {
    if (DONT_CONTEXTIFY) vm.createContext = () => usual(DONT_CONTEXTIFY)
    try {
      super(config, context)
    } finally {
      vm.createContext = usual
    }
  }
}

/**
 * Each test file has modules of its own; what the engine has made of a module's text is kept for the next file that needs it. A
 * module that imports while it runs is made anew: one made of what was kept could not.
 */
const made = new Map()
const { SourceTextModule } = vm
vm.SourceTextModule = class extends SourceTextModule {
  constructor(text, options) {
    const known = made.get(options.identifier)
    const isSame = known?.text === text
    super(text, isSame ? { ...options, cachedData: known.data } : options)
    if (!isSame && !/\bimport\s*\(/.test(text))
      made.set(options.identifier, { text, data: this.createCachedData() })
  }
}
