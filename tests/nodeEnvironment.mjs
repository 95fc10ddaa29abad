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
 * Each test file loads its own modules. V8 compiles a module once and keeps the result for the next test file. A module with a
 * dynamic import is compiled each time: from the kept result it could not import.
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
