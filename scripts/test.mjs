#!/usr/bin/env node
import { spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { brokerBundle } from './bundle.mjs'
import { ensureBuild, ensurePackages, requireNode, ROOT, run } from './lib.mjs'
import { endWithMe, within } from './within.mjs'

/**
 * Everything that must hold before a change goes in: format and lint, types, layers, unit and process tests,
 * browser tests. Installs what they need where it is missing. Every step runs, also after one that failed;
 * how many passed and failed is left in test-results/summary.json.
 */
requireNode()
const RESULTS = join(ROOT, 'test-results')
const BIN = join(ROOT, 'node_modules')

/** Debian packages that hold what the tests call, by the command that must be there. */
const NEEDED = [
  [['chromium', 'chromium-browser'], 'chromium', 'a browser'],
  [['python3'], 'python3', 'Python, for the sample script'],
]

async function ensureTools() {
  const has = (command) => spawnSync('sh', ['-c', `command -v ${command}`]).status === 0
  const missing = NEEDED.filter(([commands]) => !commands.some(has)).map(([, name]) => name)
  if (missing.length === 0) return
  const debian = has('apt-get')
  if (!debian || process.getuid?.() !== 0) {
    const how = debian
      ? `sudo apt-get install ${missing.join(' ')}`
      : 'Install them with your package manager.'
    console.error(
      `The tests need ${NEEDED.filter(([, name]) => missing.includes(name))
        .map(([, name, what]) => `${what} (${name})`)
        .join(' and ')}. ${how}`,
    )
    process.exit(1)
  }
  console.log(`Installing ${missing.join(' and ')} …`)
  const install = `apt-get update -qq && apt-get install -y -qq ${missing.join(' ')}`
  const code = await run('sh', ['-c', install], { stdio: ['ignore', 'ignore', 'inherit'] })
  if (code !== 0) {
    console.error(`apt-get could not install ${missing.join(' ')}; see the lines above.`)
    process.exit(1)
  }
}

const json = (name) => {
  const path = join(RESULTS, name)
  return existsSync(path) ? JSON.parse(readFileSync(path, 'utf8')) : undefined
}

/** The tests of a report of browser tests. */
function specsOf(report) {
  const walk = (suite) => [...(suite.suites ?? []).flatMap(walk), ...(suite.specs ?? [])]
  return (report?.suites ?? []).flatMap(walk)
}

/** What failed, a few lines a test: repeated at the end, where a reader of the log looks first. */
function failures() {
  const brief = (message) =>
    `${message ?? ''}`
      .replace(/\u001b\[\d*m/g, '')
      .split('\n')
      .filter((line) => line.trim())
      .slice(0, 8)
      .map((line) => (line.length > 300 ? `${line.slice(0, 300)} …` : line))
      .join('\n    ')
  const unit = (json('unit.json')?.testResults ?? []).flatMap((file) =>
    file.assertionResults.length === 0 && file.message
      ? [`${file.name}\n    ${brief(file.message)}`]
      : file.assertionResults
          .filter((test) => test.status === 'failed')
          .map(
            (test) =>
              `${[...test.ancestorTitles, test.title].join(' ')}\n    ${brief(test.failureMessages[0])}`,
          ),
  )
  const browser = specsOf(json('e2e.json')).flatMap((spec) =>
    spec.tests.flatMap((test) =>
      test.results
        .filter((result) => result.status !== 'passed' && result.status !== 'skipped')
        .map((result) => `${spec.file}: ${spec.title} (${test.status})\n    ${brief(result.error?.message)}`),
    ),
  )
  return [...unit, ...browser]
}

/** A test that takes longer than this is named, seconds; so many at most. */
const SLOW = 10
const NAMED = 12

/** The tests that took longest, with their seconds, so that one that has grown slow is seen. */
function slowest() {
  const unit = (json('unit.json')?.testResults ?? []).flatMap((file) =>
    file.assertionResults.map(({ duration, title }) => [
      duration ?? 0,
      `${file.name.slice(ROOT.length + 1)}: ${title}`,
    ]),
  )
  const browser = specsOf(json('e2e.json')).map((spec) => [
    Math.max(0, ...spec.tests.flatMap((test) => test.results.map(({ duration }) => duration))),
    `e2e/${spec.file}: ${spec.title}`,
  ])
  return [...unit, ...browser]
    .filter(([duration]) => duration > SLOW * 1000)
    .sort(([a], [b]) => b - a)
    .slice(0, NAMED)
    .map(([duration, name]) => `${String(Math.round(duration / 1000)).padStart(4)} s  ${name}`)
}

/** Minutes after which a step is ended: several times what it takes on a quiet machine. */
const LIMIT = 25

const node = (args) => within(LIMIT, process.execPath, args, { cwd: ROOT })

/** A check that has no tests of its own counts as one. */
const check = async (...commands) => {
  for (const args of commands) if ((await node(args)) !== 0) return { passed: 0, failed: 1 }
  return { passed: 1, failed: 0 }
}

const STEPS = {
  'lint and format': () =>
    check([join(BIN, 'oxlint/bin/oxlint'), '--quiet'], [join(BIN, 'oxfmt/bin/oxfmt'), '--check']),
  types: () =>
    check([join(BIN, 'next/dist/bin/next'), 'typegen'], [join(BIN, 'typescript-native/bin/tsc'), '--noEmit']),
  layers: () =>
    check([
      join(BIN, 'dependency-cruiser/bin/dependency-cruise.mjs'),
      '--config',
      '.dependency-cruiser.cjs',
      ...'core client runner broker app ui workers store cli bench'.split(' '),
    ]),
  'unit and process tests': async () => {
    const code = await node([
      '--experimental-vm-modules',
      '--no-warnings',
      // Room for what lives shortly: less of the time goes into taking it away.
      '--max-semi-space-size=64',
      join(BIN, 'jest/bin/jest.js'),
      // What a test left open must not keep the run open.
      '--forceExit',
      // More than there are cores: many tests wait for processes of their own.
      '--maxWorkers=3',
      '--json',
      `--outputFile=${join(RESULTS, 'unit.json')}`,
    ])
    const told = json('unit.json')
    if (!told) return { passed: 0, failed: 1 }
    const failed = told.numFailedTests + told.numRuntimeErrorTestSuites
    return { passed: told.numPassedTests, failed: failed || Number(code !== 0) }
  },
  'browser tests': async () => {
    await built
    const code = await node([join(BIN, '@playwright/test/cli.js'), 'test'])
    const told = json('e2e.json')?.stats
    if (!told) return { passed: 0, failed: 1 }
    return { passed: told.expected, failed: told.unexpected + told.flaky || Number(code !== 0) }
  },
}

endWithMe()
// Tools first: where they cannot be installed nothing is begun.
await Promise.all([ensureTools(), ensurePackages()])
mkdirSync(RESULTS, { recursive: true })
for (const name of ['unit.json', 'e2e.json', 'summary.json']) rmSync(join(RESULTS, name), { force: true })
let [passed, failed] = [0, 0]
const lines = []
/** Runs a step and takes down how it went. */
async function take(name) {
  console.log(`\n— ${name}`)
  const began = Date.now()
  const result = await STEPS[name]()
  passed += result.passed
  failed += result.failed
  lines.push(
    `${result.failed === 0 ? 'ok    ' : 'FAILED'} ${name}: ${result.passed} passed, ${result.failed} failed (${Math.round((Date.now() - began) / 1000)} s)`,
  )
}
// What waits for one another on one core has the other: the checks, and the build after them, go beside the unit tests.
await brokerBundle()
const checked = Promise.all(['lint and format', 'types', 'layers'].map(take))
const built = checked.then(ensureBuild)
await take('unit and process tests')
await take('browser tests')
writeFileSync(join(RESULTS, 'summary.json'), JSON.stringify({ passed, failed }))
for (const told of failures()) console.log(`\n✗ ${told}`)
const slow = slowest()
if (slow.length > 0)
  console.log(`\nTests of more than ${SLOW} seconds, the slowest first:\n${slow.join('\n')}`)
console.log(`\n${lines.join('\n')}\nIn all: ${passed} passed, ${failed} failed`)
process.exit(failed === 0 ? 0 : 1)
