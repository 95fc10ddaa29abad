import { readdirSync, readFileSync } from 'node:fs'
import { expect, it } from '@jest/globals'
import { Plan } from '@/core/plans/document'
import { bound } from '@/core/plans/inputs'
import { demoMarkets, lastSessions, stepped } from './overHistory'

const markets = demoMarkets()
/** The last few first: most enter in them. */
const SPANS = [2, 60].map(lastSessions)

it.each(readdirSync('plans'))(
  '%s enters at least once in the last 60 sessions of the demo’s market',
  (file) => {
    const plan = bound(Plan.parse(JSON.parse(readFileSync(`plans/${file}`, 'utf8'))))
    expect(SPANS.some((sessions) => stepped(plan, markets, sessions).filled)).toBe(true)
  },
)
