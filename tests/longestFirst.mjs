import { relative } from 'node:path'
import Sequencer from '@jest/test-sequencer'

/** Folders whose tests start programs and wait for them: what computes fills the cores meanwhile, and none is left alone at the end. */
const WAIT = ['runner', 'clients', 'tests']

/** Has tests that wait for programs begin first, then the longest first, as far as that is known. */
export default class LongestFirst extends Sequencer {
  sort(tests) {
    const waits = ({ path, context }) => WAIT.includes(relative(context.config.rootDir, path).split('/')[0])
    const sorted = super.sort(tests)
    return [...sorted.filter(waits), ...sorted.filter((test) => !waits(test))]
  }
}
