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
