/** @jest-environment ./tests/screenEnvironment.mjs */
import '@/tests/indexedDb'
import { afterEach, beforeEach, describe, expect, it } from '@jest/globals'
import { screen } from '@testing-library/react'
import { cleanup, draw } from '@/tests/screen'
import { checkRule } from '@/core/rules'
import { forgetUpdate, tellUpdate } from '../services/updates'
import { type Found, useFind } from './findStore'
import { Summary } from './Summary'

const CLOSE = Date.parse('2026-03-13T19:00:00Z')
const DAY = 86_400_000
const RULE = 'close > sma(close, 3)'
const found = (part: Partial<Found> = {}): Found => ({
  ...{ rows: [], unknown: [], looked: 193, failed: 0, barsTrue: 0, barsKnown: 0, came: 0, parts: [] },
  ...{ empty: [], holey: [], stale: [], absent: [], asOf: CLOSE, zone: 'America/Halifax' },
  ...{ measureTexts: [], rule: RULE, frame: '1 day', by: undefined },
  ...part,
})

/** What the line says of a result. */
function said(result: Found, running = false): string {
  useFind.setState({ result, rule: RULE, universe: { is: 'everything' } })
  const venues = () => Promise.resolve([{ mic: 'XBRK', index: 'BRKX' }])
  const explain = () => {
    const { tree } = checkRule(RULE)
    return Promise.resolve({ node: tree, verdict: 'unknown', values: [], parts: [] })
  }
  draw(
    <Summary
      problem=""
      asked={193}
      source={{ is: 'market', frame: '1 day', version: '' }}
      running={running}
    />,
    { broker: { venues, securities: () => Promise.resolve([]) }, scans: { explain } } as never,
  )
  return screen.getByTestId('summary').textContent
}

beforeEach(() => forgetUpdate('1 day'))
afterEach(() => {
  cleanup()
  useFind.setState({ result: undefined })
})

describe('the line under a scan', () => {
  it('says how many of how many, as of when, and that all is up to date', () =>
    expect(said(found())).toBe(
      '0 of 193 meet it · completed bars, as of the close of Fri 13 Mar 2026, all up to date',
    ))

  it('while bars come, says that it is not all, and nothing of what is not known yet', () => {
    const line = said(found({ looked: 100 }), true)
    expect(line).toContain('0 of 100 meet it so far; 193 to look through')
    expect(line).not.toContain('up to date')
  })

  it('a scan that runs again over a whole result takes nothing of it back', () =>
    expect(said(found(), true)).not.toContain('so far'))

  it('of a rule that was changed since, says that it is the one before', () => {
    useFind.setState({ rule: 'close > 1' })
    expect(said(found({ rule: 'close > 2' }))).toMatch(/^The rule was changed since: 0 of 193 met it before/)
  })

  it('names what is behind, what has holes and what is not there', () => {
    const stale = [{ symbol: 'OLD', end: CLOSE - 9 * DAY }]
    expect(said(found({ stale, holey: ['GAPPY'], absent: ['GONE'] }))).toMatch(
      /1 end earlier, the oldest 9 days before · 1 miss some bars · 1 have no bars here/,
    )
  })

  it('where the market did not answer, says so in place of “up to date”', () => {
    tellUpdate('1 day', { state: 'failed', problem: 'The market does not answer.' })
    expect(said(found())).toMatch(/2026 · The market does not answer\.$/)
  })
})
