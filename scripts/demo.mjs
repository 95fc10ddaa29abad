#!/usr/bin/env node
import { spawn } from 'node:child_process'
import { resolve } from 'node:path'
import { brokerBundle } from './bundle.mjs'
import { ensureBuild, ensurePackages, portBusy, requireNode, ROOT } from './lib.mjs'

/**
 * Installs, builds and starts everything: the stand-in market and broker as a process of its own, started
 * again when it dies, and the application.
 */
requireNode()
const dev = process.argv.includes('--dev')
const port = Number(process.env.PORT ?? 4310)
const brokerPort = Number(process.env.HERON_BROKER_PORT ?? port + 2)
const dataDir = resolve(process.env.HERON_DATA ?? resolve(ROOT, '.heron'))

if (!Number.isInteger(port) || port < 1 || port > 65533) {
  console.error(
    `PORT "${process.env.PORT}" is not a port. Choose a number from 1 to 65533, for example PORT=4400 npm run demo`,
  )
  process.exit(2)
}
for (const [number, name] of [
  [port, 'PORT'],
  [brokerPort, 'HERON_BROKER_PORT'],
]) {
  if (await portBusy(number)) {
    console.error(
      `Port ${number} is in use, perhaps by another Fleet Heron. Choose another, for example ${name}=${number + 100} npm run demo`,
    )
    process.exit(98)
  }
}

await ensurePackages()
if (!dev) await ensureBuild()
// From sources while one works on them, so that their lines stand in its messages.
const broker = dev ? ['--import', 'tsx', 'broker/main.ts'] : [await brokerBundle()]

const env = {
  ...process.env,
  HERON_DATA: dataDir,
  HERON_BROKER_PORT: String(brokerPort),
  HERON_BROKER_URL: process.env.HERON_BROKER_URL ?? `http://127.0.0.1:${brokerPort}`,
  NEXT_TELEMETRY_DISABLED: '1',
}
const children = new Set()
let stopping = false

function start(args) {
  const child = spawn(process.execPath, ['--import', './scripts/endsWithParent.mjs', ...args], {
    cwd: ROOT,
    env,
    stdio: ['inherit', 'inherit', 'inherit', 'ipc'],
  })
  children.add(child)
  child.on('exit', () => children.delete(child))
  return child
}

let deaths = 0
function startBroker() {
  const began = Date.now()
  start(broker).on('exit', (code, signal) => {
    if (stopping) return
    deaths = Date.now() - began > 10_000 ? 1 : deaths + 1
    if (deaths > 5) {
      console.error('The broker ended five times in a row; it is not started again. The reason stands above.')
      return
    }
    console.error(`The broker ended (${signal ?? code}); starting it again.`)
    setTimeout(startBroker, 500 * deaths)
  })
}

function stop(code) {
  if (stopping) return
  stopping = true
  for (const child of children) child.kill('SIGTERM')
  setTimeout(() => process.exit(code), 1500).unref()
  if (children.size === 0) process.exit(code)
  for (const child of children) child.on('exit', () => children.size === 0 && process.exit(code))
}
process.on('SIGINT', () => stop(0))
process.on('SIGTERM', () => stop(0))
// Started by another program, such as a test, it ends with it.
process.on('disconnect', () => stop(0))
process.channel?.unref()

startBroker()
const app = start([
  'node_modules/next/dist/bin/next',
  dev ? 'dev' : 'start',
  '-p',
  String(port),
  '-H',
  '127.0.0.1',
])
app.on('exit', (code) => {
  if (!stopping) console.error('The application ended.')
  stop(code ?? 1)
})
console.log(`
Fleet Heron: http://127.0.0.1:${port}
Broker API:  http://127.0.0.1:${brokerPort}/openapi.json
Paper key:   ${dataDir}/broker/paper-key.json
Ctrl+C ends both; what was acknowledged stays in ${dataDir}
`)
