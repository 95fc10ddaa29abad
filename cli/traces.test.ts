import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, expect, it } from '@jest/globals'
import { Traces } from './traces'

let folder = ''
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'heron-traces-'))
})
afterEach(() => rmSync(folder, { recursive: true, force: true }))
const read = (date: string) => readFileSync(join(folder, `${date}.jsonl`), 'utf8')

it('a session that is full takes what led to an order alone, also after a restart', () => {
  const line = `${'x'.repeat(99)}\n`
  const first = new Traces(folder, 1000)
  for (let i = 0; i < 30; i++) first.write(line, '2026-03-16', false)
  expect(read('2026-03-16')).toHaveLength(1000)
  new Traces(folder, 1000).write(line, '2026-03-16', false)
  expect(read('2026-03-16')).toHaveLength(1000)
  new Traces(folder, 1000).write('ordered\n', '2026-03-16', true)
  expect(read('2026-03-16').slice(1000)).toBe('ordered\n')
  // Nobody else may read what is written of an account.
  expect(statSync(join(folder, '2026-03-16.jsonl')).mode & 0o077).toBe(0)
})

it('the oldest sessions go, the newest stay', () => {
  const traces = new Traces(folder, 1000, 3)
  const days = ['2026-03-12', '2026-03-13', '2026-03-16', '2026-03-17', '2026-03-18']
  for (const day of days) traces.write('a\n', day, false)
  expect(readdirSync(folder).sort()).toEqual(days.slice(2).map((day) => `${day}.jsonl`))
})
