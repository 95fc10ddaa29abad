import { INDICATORS } from '../../indicators'
import { FUNCTIONS, NAMES, RELATIONS, SIGNS, usageOf } from '.'

/** The tables of docs/rule-text.md, made from the definitions: what a word says of itself is said once. */

/** A sign that a table would take for its own. */
const cell = (text: string): string => text.replaceAll('|', '\\|')

const table = (heads: readonly string[], rows: readonly (readonly string[])[]): string =>
  [heads, heads.map(() => '---'), ...rows.map((row) => row.map(cell))]
    .map((row) => `| ${row.join(' | ')} |`)
    .join('\n')

const code = (text: string): string => `\`${text}\``

const TABLES: Record<string, () => string> = {
  values: () =>
    table(
      ['written', 'unit', 'means', 'unknown where'],
      Array.from(NAMES.values(), ({ name, unit, doc, unknown }) => [
        code(name),
        unit === 'state' ? 'yes/no' : unit,
        doc,
        unknown,
      ]),
    ),
  conditions: () =>
    table(
      ['written', 'is a', 'means'],
      [
        ...Array.from(RELATIONS.values(), ({ usage, gives, doc }) => [code(usage), gives, doc]),
        ...Array.from(SIGNS.values()).flatMap(({ name, usage, doc }) =>
          /^[a-z]/.test(name) ? [[code(usage), name === 'count of' ? 'number' : '', doc]] : [],
        ),
      ],
    ),
  arithmetic: () =>
    table(
      ['written', 'means'],
      Array.from(SIGNS.values()).flatMap(({ name, usage, doc }) =>
        /^[a-z]/.test(name) ? [] : [[usage.split(', ').map(code).join(' '), doc]],
      ),
    ),
  indicators: () =>
    table(
      ['written', 'outputs', 'means', 'source', 'unknown where'],
      INDICATORS.all().map((indicator) => [
        code(usageOf(indicator)),
        indicator.outputs.length > 1 ? indicator.outputs.map(({ name }) => code(`.${name}`)).join(' ') : '',
        indicator.doc,
        indicator.source,
        indicator.unknown,
      ]),
    ),
  functions: () =>
    table(
      ['written', 'outputs', 'means', 'unknown where'],
      Array.from(FUNCTIONS.values(), ({ usage, outputs = [], doc, unknown }) => [
        code(usage),
        outputs.map((name) => code(`.${name}`)).join(' '),
        doc,
        unknown,
      ]),
    ),
}

/** A page with the table of each name between its marks made anew. Throws Error where one has no place in it. */
export function withTables(page: string): string {
  return Object.entries(TABLES).reduce((text, [name, make]) => {
    const [from, to] = [`<!-- table: ${name} -->\n\n`, '\n\n<!-- end -->']
    const start = text.indexOf(from)
    const end = text.indexOf(to, start)
    if (start < 0 || end < 0) throw new Error(`The page has no place for the table "${name}"`)
    return text.slice(0, start + from.length) + make() + text.slice(end)
  }, page)
}
