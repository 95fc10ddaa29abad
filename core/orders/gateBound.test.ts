import { expect, it } from '@jest/globals'
import { boundOf } from './gateBound'

it.each([
  ['quoted spread <= 0.4%', { name: 'quoted spread', limit: 0.4 }],
  ['order value <= 9000 and quoted spread < 1%', { name: 'order value', limit: 9000 }],
  ['50% <= breadth', { name: 'breadth', limit: 50 }],
  ['market lean > -1', { name: 'market lean', limit: -1 }],
  ['order value < 2 * order loss', undefined],
])('%s is held against its limit', (rule, wanted) => {
  expect(boundOf(rule)).toEqual(wanted)
})
