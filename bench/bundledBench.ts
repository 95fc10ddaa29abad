import { execFileSync } from 'node:child_process'
import { bundled } from '../scripts/bundle.mjs'
import { type Line } from './measure'

/**
 * A bench run from a bundle, as programs are delivered: run from sources, every function that is made is given its name anew,
 * which takes a third of the time of code that makes many.
 */
export async function bundledBench(name: string): Promise<Line[]> {
  const bundle = await bundled('bench/plansMain.ts', ['bench', 'core'])
  const said = execFileSync(process.execPath, ['--expose-gc', bundle, name], { encoding: 'utf8' })
  return said
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Line)
}
