import '@/tests/indexedDb'
import { beforeEach, describe, expect, it } from '@jest/globals'
import { Plan } from '@/core/plans/document'
import example from '@/plans/fast-over-slow.json'
import { db } from './db'
import { dayView, keepDayView } from './dayView'
import { BEGUN, freshPlanId, keepPlan, seenBook, sinceFor, versionFor } from './plans'
import { type PlanMemory, readPlanFile } from '@/core/plans/memory'
import { hasBegun, memoryFrom, takeMemory } from './planMemory'
import { exportWorkspace, importWorkspace } from './workspace'

const plan = Plan.parse(example)
beforeEach(async () => {
  await Promise.all(db.tables.map((table) => table.clear()))
})

describe('a plan that is carried elsewhere', () => {
  const entry = { symbol: 'OSPRY', at: 5, became: 'Filled' as const }

  it('goes on under its own id with what it has seen, and since when its events count', async () => {
    await keepPlan(plan)
    await sinceFor(plan.id, 7, 'w-1')
    await db.seen.put({ plan: plan.id, key: 'a-1', ...entry })
    const file = readPlanFile(JSON.parse(JSON.stringify(await memoryFrom(plan, 'w-1'))))
    const { memory } = file as { memory: PlanMemory }
    await expect(takeMemory(memory, 'w-1')).rejects.toThrow('here already')
    await Promise.all(db.tables.map((table) => table.clear()))
    await expect(takeMemory(memory, 'w-2')).rejects.toThrow('another world')
    expect(await hasBegun(plan.id)).toBe(false)
    await takeMemory(memory, 'w-1')
    expect(await seenBook(plan.id, 'w-1')).toEqual({ 'a-1': entry })
    expect(await sinceFor(plan.id, 99, 'w-1')).toBe(7)
    expect((await versionFor(plan)).version).toBe(plan.version)
  })

  it('a file that is neither says what is wrong at its place; a plan alone remembers nothing', () => {
    expect(readPlanFile(plan)).toEqual({ plan })
    expect(readPlanFile({ ...plan, name: '' })).toEqual({ wrong: [expect.stringContaining('name: ')] })
    const odd = { form: 'fleet-heron-plan-memory', formVersion: 1, plan, worldId: 'w', seen: { a: {} } }
    expect(readPlanFile(odd)).toEqual({ wrong: expect.arrayContaining([expect.stringContaining('seen.a.')]) })
  })
})

describe('plans that are kept', () => {
  it('what is begun is a version for good; the same text is the same version, another one more', async () => {
    await keepPlan(plan)
    expect((await versionFor(plan)).version).toBe(1)
    expect((await versionFor({ ...plan, version: 7 })).version).toBe(1)
    const changed = { ...plan, name: 'Changed' }
    // Two tabs at the same time.
    const both = await Promise.all([versionFor(changed), versionFor(changed)])
    expect(both.map(({ version }) => version)).toEqual([2, 2])
    expect((await db.planVersions.toArray()).map(({ version, plan: { name } }) => [version, name])).toEqual([
      [1, plan.name],
      [2, 'Changed'],
    ])
    expect((await db.plans.get(plan.id))!.plan).toMatchObject({ name: 'Changed', version: 2 })
  })

  it('each has an id of its own, made of its name', async () => {
    expect(await freshPlanId('Ebb & flow, twice!')).toBe('ebb-flow-twice')
    await keepPlan({ ...plan, id: 'ebb-flow-twice' })
    expect(await freshPlanId('Ebb & flow, twice!')).toBe('ebb-flow-twice-2')
    expect(await freshPlanId('???')).toBe('plan')
  })

  it('what was said of a day is of that day alone', async () => {
    await keepDayView({ date: '2026-03-16', view: 'Down', note: 'heavy', at: 5 })
    expect(await dayView('2026-03-16')).toMatchObject({ view: 'Down', note: 'heavy' })
    expect(await dayView('2026-03-17')).toBeUndefined()
  })

  it('leave with the workspace and come back, with what they have seen; what runs in a tab does not', async () => {
    await keepPlan(plan)
    await versionFor(plan)
    const entry = { symbol: 'OSPRY', at: 5, became: 'Declined' as const, note: 'not for me' }
    await db.seen.put({ plan: plan.id, key: 'h-1', ...entry })
    expect([await sinceFor(plan.id, 7, 'w-1'), await sinceFor(plan.id, 9, 'w-1')]).toEqual([7, 7])
    await db.settings.put({ name: `${BEGUN}${plan.id}`, value: {} })
    const text = await exportWorkspace()
    await Promise.all(db.tables.map((table) => table.clear()))
    await importWorkspace(text)
    expect((await db.plans.get(plan.id))!.plan).toEqual(plan)
    expect(await db.planVersions.count()).toBe(1)
    expect(await seenBook(plan.id, 'w-1')).toEqual({ 'h-1': entry })
    expect(await seenBook('another', 'w-1')).toEqual({})
    expect(await sinceFor(plan.id, 11, 'w-1')).toBe(7)
    expect(await db.settings.get(`${BEGUN}${plan.id}`)).toBeUndefined()
  })
})
