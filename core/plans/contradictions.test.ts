import { expect, it } from '@jest/globals'
import { aboveAverage } from '@/tests/aboveAverage'
import { planIssues } from './check'
import { type Plan } from './document'

const said = (plan: Plan, is?: 'error' | 'warning') =>
  planIssues(plan).flatMap((one) => (is === undefined || one.is === is ? [`${one.clause}: ${one.text}`] : []))

it('times that cannot be are told, each with the mend', () => {
  const at = (clock: string) => ({ clock })
  expect(said(aboveAverage({ when: { from: at('11:00'), until: at('10:30') } }), 'error')).toEqual([
    'When: it enters until 10:30 and from 11:00, so never: give a later end',
  ])
  expect(said(aboveAverage({ when: { weekdays: [6, 7] } }), 'error')).toEqual([
    'When: it looks on weekends only, when venues are closed: add a weekday',
  ])
  const stop = { exits: { stop: { percent: 2 } } }
  expect(said(aboveAverage({ then: { ...stop, outAt: at('17:00') } }), 'error')).toEqual([
    expect.stringContaining('Then: it closes all by 17:00, when the venue is closed'),
  ])
  const early = { when: { from: { afterOpen: 60 } }, then: { ...stop, outAt: at('10:00') } }
  expect(said(aboveAverage(early), 'error')).toEqual([
    'Then: it closes all by 10:00 and enters from 60 min after the open: what is entered is closed at once',
  ])
  expect(said(aboveAverage({ ...early, then: { ...early.then, sessions: 3 } }), 'error')).toEqual([])
})

it('levels, scores and additions that contradict each other are told', () => {
  const far = { exits: { stop: { percent: 40 }, target: { percent: 1 } } }
  expect(said(aboveAverage({ then: far }), 'warning')).toEqual([
    'Then: the stop lies 40 % away and the target 1 %: one loss takes what 40 gains brought',
  ])
  const carded = aboveAverage({})
  carded.sides[0].score = { lines: [{ name: 'mine', points: 3, from: 'Trader' }], least: 5, waits: 0 }
  expect(said(carded, 'error')).toEqual([
    'Provided: its score card gives at most 3 points, and 5 are asked for: lower that, or let lines give more',
  ])
  const adds = { adds: { most: 2, after: { gain: { percent: 1 } } } }
  expect(said(aboveAverage({ do: adds, never: { entriesPerSecurityAndDay: 1 } }), 'error')).toEqual([
    'Never: it orders more up to 2 times, and Never allows 1 entry a day in one security: each order for more counts as an entry',
  ])
  expect(said(aboveAverage({ do: adds, never: { entriesPerSecurityAndDay: 3 } }), 'error')).toEqual([])
})
