import { main } from '@/cli/main'
import { type Ended } from './process'

/**
 * Runs a `heron` command in this process: one of its own would take half a second of the processor each time. One at a time; what
 * reads standard input, or is ended from outside, is run as a process (`run`).
 */
export async function heron(...args: string[]): Promise<Ended> {
  const { stdout, stderr } = process
  const ended: Ended = { code: null, out: '', err: '' }
  const writes = [stdout.write, stderr.write] as const
  stdout.write = (text: string | Uint8Array) => ((ended.out += String(text)), true)
  stderr.write = (text: string | Uint8Array) => ((ended.err += String(text)), true)
  try {
    ended.code = await main(['node', 'heron', ...args])
  } finally {
    ;[stdout.write, stderr.write] = writes
  }
  return ended
}
