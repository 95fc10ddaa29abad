import { readFileSync, writeFileSync } from 'node:fs'
import { withTables } from '../core/rules/words/tables'

/** Makes the tables of docs/rule-text.md anew from the definitions of the words. */
const PAGE = 'docs/rule-text.md'
writeFileSync(PAGE, withTables(readFileSync(PAGE, 'utf8')))
