import { type Unit } from '../indicators/types'
import { type Timeframe } from '../market/timeframe'
import { type Issue } from './issues'
import { barsNeeded, LOOK_BACK_LIMIT } from './needs'
import { parse } from './parse'
import { print } from './print'
import { type Node } from './tree'
import { type Names } from './literals'
import { type Type, Typer } from './typer'

export type Checked =
  | { tree: Node; type: Type; needs: number; issues: [] }
  | { tree?: Node; type?: undefined; issues: Issue[] }

const DAILY: Timeframe = { count: 1, unit: 'day' }

/** Parses and checks a rule, which must be yes/no. `every` is the timeframe it will be run on. */
export const checkRule = (text: string, every: Timeframe = DAILY, names: Names = {}): Checked =>
  checkText(text, every, names, 'yes/no')

/** Parses and checks a measure, which must be a number. */
export const checkMeasure = (text: string, every: Timeframe = DAILY, names: Names = {}): Checked =>
  checkText(text, every, names, 'number')

function checkText(text: string, every: Timeframe, names: Names, wanted: Type['is']): Checked {
  const parsed = parse(text)
  if (!parsed.tree) return parsed
  return checkTree(parsed.tree, every, wanted, names)
}

/** Checks names, arguments, types, units and the length of the look back of a tree. */
export function checkTree(tree: Node, every: Timeframe, wanted?: Type['is'], names: Names = {}): Checked {
  const typer = new Typer(every, names)
  const type = typer.typeOf(tree)
  const { issues } = typer
  const at = tree.at ?? { from: 0, to: 0 }
  if (type && wanted && type.is !== wanted)
    issues.push({ code: wanted === 'yes/no' ? 'wants_yes_no' : 'wants_number', found: print(tree), at })
  if (issues.length > 0 || !type) return { tree, issues }
  const needs = barsNeeded(tree)
  if (needs <= LOOK_BACK_LIMIT) return { tree, type, needs, issues: [] }
  return { tree, issues: [{ code: 'too_far_back', bars: needs, limit: LOOK_BACK_LIMIT, at }] }
}

/** Unit of a number-valued tree; 'number' where it is yes/no or has an issue. */
export const unitOf = (tree: Node, every: Timeframe): Unit => new Typer(every).unitOf(tree)
