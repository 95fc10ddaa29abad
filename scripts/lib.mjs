import { spawn } from 'node:child_process'
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

/** What the commands share: no packages, since they run before there are any. */

export const ROOT = dirname(dirname(fileURLToPath(import.meta.url)))

export function requireNode() {
  const [major, minor] = process.versions.node.split('.').map(Number)
  if (major > 20 || (major === 20 && minor >= 9)) return
  console.error(
    `Fleet Heron needs Node 20.9 or newer; this is ${process.versions.node}. Install it from nodejs.org or your distribution.`,
  )
  process.exit(1)
}

/** Runs a command in the project, its output shown; resolves to its exit code. */
export function run(command, args, options = {}) {
  return new Promise((resolve) => {
    const child = spawn(command, args, { cwd: ROOT, stdio: 'inherit', ...options })
    child.on('error', (error) => {
      console.error(`${command} could not be run: ${error.message}`)
      resolve(127)
    })
    child.on('exit', (code, signal) => resolve(code ?? (signal ? 1 : 0)))
  })
}

/** Installs the packages where they are missing or older than the lock file. */
export async function ensurePackages() {
  const done = join(ROOT, 'node_modules', '.package-lock.json')
  const lock = join(ROOT, 'package-lock.json')
  if (existsSync(done) && statSync(done).mtimeMs >= statSync(lock).mtimeMs) return
  console.log('Installing packages …')
  const code = await run('npm', ['ci', '--no-audit', '--no-fund'])
  if (code !== 0) {
    console.error('The packages could not be installed; see the lines above. Is the npm registry reachable?')
    process.exit(code)
  }
}

function newest(path) {
  const stat = statSync(path)
  if (!stat.isDirectory()) return stat.mtimeMs
  return Math.max(0, ...readdirSync(path).map((name) => newest(join(path, name))))
}

/** Builds the application where there is no build or a source is newer than it. */
export async function ensureBuild() {
  const id = join(ROOT, '.next', 'BUILD_ID')
  const folders = ['app', 'ui', 'core', 'client', 'runner', 'store', 'workers']
  const sources = [...folders, 'package-lock.json', 'next.config.ts']
  if (existsSync(id) && sources.every((name) => newest(join(ROOT, name)) < statSync(id).mtimeMs)) return
  console.log('Building …')
  const code = await run(process.execPath, ['node_modules/next/dist/bin/next', 'build'], {
    env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1' },
  })
  if (code !== 0) process.exit(code)
  compileAhead(join(ROOT, '.next', 'static', 'chunks'))
}

/**
 * Marks the scripts of the pages so that the browser compiles them whole while they arrive, beside the page, and keeps that
 * with what it caches: a bundle's modules are functions that it would else compile one by one when they are called.
 * Source of the mark: V8, "Explicit compile hints".
 */
function compileAhead(folder) {
  const mark = '//# allFunctionsCalledOnLoad\n'
  for (const name of readdirSync(folder).filter((one) => one.endsWith('.js'))) {
    const path = join(folder, name)
    const text = readFileSync(path, 'utf8')
    if (!text.startsWith(mark)) writeFileSync(path, mark + text)
  }
}

/** True if something listens on a port of this machine. */
export function portBusy(port) {
  return new Promise((resolve) => {
    const probe = createServer()
    probe.once('error', (error) => resolve(error.code === 'EADDRINUSE'))
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(false)))
  })
}
