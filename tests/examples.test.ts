import { readdirSync, readFileSync } from 'node:fs'
import { expect, it } from '@jest/globals'
import { Plan } from '@/core/plans/document'
import { bound } from '@/core/plans/inputs'
import { demoMarkets, lastSessions, stepped } from './overHistory'

const markets = demoMarkets()
const SESSIONS = lastSessions(60)

it.each(readdirSync('plans'))(
  '%s enters at least once in the last 60 sessions of the demo’s market',
  (file) => {
    const plan = bound(Plan.parse(JSON.parse(readFileSync(`plans/${file}`, 'utf8'))))
    // Of a pair, and of several legs, all that was sent is filled.
    const { filled, sent } = stepped(plan, markets, SESSIONS)
    expect([filled, sent.length > 0]).toEqual([true, true])
  },
)
