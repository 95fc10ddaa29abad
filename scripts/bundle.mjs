import { existsSync, mkdirSync, readdirSync, renameSync, statSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

const ROOT = dirname(dirname(fileURLToPath(import.meta.url)))

const newest = (path) =>
  statSync(path).isDirectory()
    ? Math.max(0, ...readdirSync(path).map((name) => newest(join(path, name))))
    : statSync(path).mtimeMs

/**
 * The path of a program as one bundle, made anew where one of its sources is newer: starting from sources would take
 * seconds of processor time each time. `sources` are the files and folders that it is made of.
 */
export async function bundled(entry, sources) {
  const bundle = join(
    ROOT,
    'node_modules',
    '.cache',
    'heron',
    entry.replace(/\.ts$/, '.mjs').replaceAll('/', '-'),
  )
  const made = existsSync(bundle) ? statSync(bundle).mtimeMs : -1
  if ([...sources, 'package-lock.json'].every((name) => newest(join(ROOT, name)) <= made)) return bundle
  const { build } = await import('esbuild')
  mkdirSync(dirname(bundle), { recursive: true })
  // Written aside and moved into place, so that programs that start together do not read half a file.
  const aside = `${bundle}.${process.pid}.mjs`
  await build({
    entryPoints: [join(ROOT, entry)],
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
  return bundle
}

export const brokerBundle = () => bundled('broker/main.ts', ['broker', 'core'])
