#!/usr/bin/env node
import { pathToFileURL } from 'node:url'
import { bundled } from '../scripts/bundle.mjs'

/** The command runs the same TypeScript as the application, as one bundle. */
const { main } = await import(
  pathToFileURL(await bundled('cli/main.ts', ['cli', 'client', 'core', 'runner'])).href
)
// A reader that has seen enough, such as head, closes the pipe; that is no mistake.
process.stdout.on('error', ({ code }) => process.exit(code === 'EPIPE' ? 0 : 1))
process.exitCode = await main(process.argv)
// What is still open then, such as a connection that is kept for the next request, is waited for no longer.
setTimeout(() => process.exit(), 300).unref()
