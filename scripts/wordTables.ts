import { readFileSync, writeFileSync } from 'node:fs'
import * as z from 'zod'
import { Plan } from '../core/plans/document'
import { withTables } from '../core/rules/words/tables'

/** Makes the tables of docs/rule-text.md anew from the definitions of the words. */
const PAGE = 'docs/rule-text.md'
writeFileSync(PAGE, withTables(readFileSync(PAGE, 'utf8')))

/** The form of a plan's file, for those who write one elsewhere. */
writeFileSync('docs/plan.schema.json', `${JSON.stringify(z.toJSONSchema(Plan, { io: 'input' }), null, 2)}\n`)
