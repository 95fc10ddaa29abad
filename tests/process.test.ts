import { afterAll, beforeAll, expect, it } from '@jest/globals'
import { spawn } from 'node:child_process'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { tempDir } from './broker'
import { freePort, ROOT, run } from './process'

let dir: Awaited<ReturnType<typeof tempDir>>
beforeAll(async () => {
  dir = await tempDir()
})
afterAll(() => dir.remove())

const isAlive = (pid: number): boolean => {
  try {
    process.kill(pid, 0)
    return true
  } catch {
    return false
  }
}

async function until(holds: () => boolean): Promise<void> {
  while (!holds()) await new Promise((resolve) => setTimeout(resolve, 50))
}

it('a broker ends with the process that started it, also when that one is killed', async () => {
  const script = join(dir.path, 'starts.mts')
  writeFileSync(
    script,
    `const { BrokerProcess } = await import(${JSON.stringify(join(ROOT, 'tests/process.ts'))})
     const broker = new BrokerProcess(${JSON.stringify(dir.path)}, ${await freePort()})
     await broker.start()
     console.log('pid', broker.pid)
     setInterval(() => undefined, 1000)`,
  )
  const starter = spawn(process.execPath, ['--import', 'tsx', script], {
    cwd: ROOT,
    env: { ...process.env, NODE_OPTIONS: '' },
  })
  try {
    const pid = await new Promise<number>((resolve, reject) => {
      let [out, err] = ['', '']
      starter.stdout.on('data', (part: Buffer) => {
        const found = /pid (\d+)/.exec((out += part.toString()))
        if (found) resolve(Number(found[1]))
      })
      starter.stderr.on('data', (part: Buffer) => (err += part.toString()))
      starter.on('exit', () => reject(new Error(err)))
    })
    expect(isAlive(pid)).toBe(true)
    starter.kill('SIGKILL')
    await until(() => !isAlive(pid))
  } finally {
    starter.kill('SIGKILL')
  }
})

const hanging = `
  import { within } from './scripts/within.mjs'
  const inner = 'require("child_process").spawn(process.execPath, ["-e", "setInterval(() => 0, 1e3)"]); '
  const code = await within(WITHIN, process.execPath, ['-e', inner + (STAYS ? 'setInterval(() => 0, 1e3)' : 'setTimeout(() => process.exit(3), 300)')])
  console.log('code', code)
`

it.each([
  [
    'a command that does not end is ended, and what was still open is told',
    '0.02',
    'true',
    'code 124',
    'did not end within',
  ],
  ['what a command leaves running ends with it', '5', 'false', 'code 3', 'Left running'],
])('%s', async (_, minutes, stays, code, told) => {
  const script = hanging.replace('WITHIN', minutes).replace('STAYS', stays)
  const { out, err } = await run(process.execPath, ['--input-type=module', '-e', script])
  expect(out).toContain(code)
  expect(err).toContain(told)
  const open = [...err.matchAll(/^ {2}(\d+) /gm)].map((m) => Number(m[1]))
  expect(open.length).toBeGreaterThan(0)
  await until(() => !open.some(isAlive))
})
