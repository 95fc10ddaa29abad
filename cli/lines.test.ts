import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, expect, it } from '@jest/globals'
import { run } from '@/tests/process'
import { endTornLine } from './lines'

let folder = ''
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'heron-lines-'))
})
afterEach(() => rmSync(folder, { recursive: true, force: true }))

it('of a line that the disk has no room for, nothing is left for the next one to be lost in', async () => {
  // The shell lets no file grow beyond eight blocks of 512 bytes; Node is told so in mid-line, as by a full disk.
  const path = join(folder, 'journal.jsonl')
  const program = `
    import { appendLine } from './cli/lines.ts'
    const told = []
    for (const length of [3000, 3000, 500, 900, 100])
      try {
        appendLine(${JSON.stringify(path)}, JSON.stringify('x'.repeat(length)) + '\\n')
        told.push('kept')
      } catch (error) {
        told.push(error.code)
      }
    console.log(told.join())`
  const { out } = await run('sh', [
    '-c',
    'ulimit -f 8; exec "$0" --import tsx --input-type=module -e "$1"',
    process.execPath,
    program,
  ])
  expect(out.trim()).toBe('kept,EFBIG,kept,EFBIG,kept')
  const lengths = readFileSync(path, 'utf8')
    .trimEnd()
    .split('\n')
    .map((line) => JSON.parse(line).length)
  expect(lengths).toEqual([3000, 500, 100])
})

it('a line that was cut off by a death is ended, a whole one is left alone', () => {
  const path = join(folder, 'journal.jsonl')
  endTornLine(path)
  for (const [before, after] of [
    ['{"is":"resu', '{"is":"resu\n'],
    ['{"is":"result"}\n', '{"is":"result"}\n'],
    ['', ''],
  ]) {
    writeFileSync(path, before)
    endTornLine(path)
    expect(readFileSync(path, 'utf8')).toBe(after)
  }
})
