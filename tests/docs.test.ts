import { describe, expect, it } from '@jest/globals'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { PROBLEMS } from '@/broker/api/problems'
import { parse, print } from '@/core/rules'
import { withTables } from '@/core/rules/words/tables'

const text = (path: string) => readFileSync(path, 'utf8')

/** Every file of the project below a folder. */
const filesIn = (folder: string): string[] =>
  readdirSync(folder, { withFileTypes: true }).flatMap((entry) =>
    entry.isDirectory() ? filesIn(join(folder, entry.name)) : [join(folder, entry.name)],
  )

describe('the documents', () => {
  it('the tables of docs/rule-text.md are those of the definitions (npm run docs makes them anew)', () => {
    expect(withTables(text('docs/rule-text.md'))).toBe(text('docs/rule-text.md'))
  })

  it('its examples, and those of the README, are rules', () => {
    const examples = [...text('docs/rule-text.md').matchAll(/^ {4}(.+)$/gm)].map((m) => m[1])
    const readme = /^ {4}(close crosses.+)$/m.exec(text('README.md'))![1]
    expect(examples.length).toBeGreaterThan(2)
    for (const example of [...examples, readme]) expect(print(parse(example).tree!)).toBe(example)
  })

  it('docs/api.md names every path and every kind of problem', () => {
    const page = text('docs/api.md')
    const paths = filesIn('broker/api')
      .filter((file) => file.endsWith('Routes.ts') || /[sS]treams\.ts$/.test(file))
      .flatMap((file) => [...text(file).matchAll(/path: '([^']+)'/g)].map((m) => m[1]))
    expect(paths.length).toBeGreaterThan(15)
    const short = (path: string) => path.replace('{mic}', 'XBKW')
    for (const path of paths) expect(page).toContain(short(path))
    const kinds = Object.keys(PROBLEMS).filter((kind) => kind !== 'internal-error')
    for (const kind of kinds) expect(page).toContain(`\`${kind}\``)
  })

  it('links and pictures of the README are there', () => {
    const linked = [...text('README.md').matchAll(/\]\((?!http)([^)]+)\)/g)].map((m) => m[1])
    expect(linked.length).toBeGreaterThan(8)
    for (const path of linked) expect(text(path).length).toBeGreaterThan(0)
    expect(readdirSync('docs/screenshots').length).toBeLessThan(20)
  })
})
