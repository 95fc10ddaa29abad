#!/usr/bin/env node
import { existsSync, mkdirSync, readdirSync, renameSync, statSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath, pathToFileURL } from 'node:url'

/**
 * The command runs the same TypeScript as the application, as one bundle that is made anew when a source is
 * newer: starting from sources would take two seconds each time.
 */
const ROOT = dirname(dirname(fileURLToPath(import.meta.url)))
const bundle = join(ROOT, 'node_modules', '.cache', 'heron', 'heron.mjs')

const newest = (path) =>
  statSync(path).isDirectory()
    ? Math.max(0, ...readdirSync(path).map((name) => newest(join(path, name))))
    : statSync(path).mtimeMs
const sources = ['cli', 'core', 'package-lock.json'].map((name) => join(ROOT, name))

if (!existsSync(bundle) || sources.some((path) => newest(path) > statSync(bundle).mtimeMs)) {
  const { build } = await import('esbuild')
  mkdirSync(dirname(bundle), { recursive: true })
  // Written aside and moved into place, so that commands that start together do not read half a file.
  const aside = `${bundle}.${process.pid}.mjs`
  await build({
    entryPoints: [join(ROOT, 'cli', 'main.ts')],
    outfile: aside,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    banner: {
      js: "import { createRequire as makeRequire } from 'node:module'; const require = makeRequire(import.meta.url);",
    },
  })
  renameSync(aside, bundle)
}
const { main } = await import(pathToFileURL(bundle).href)
process.exitCode = await main(process.argv)
