import { type Plan } from '@/core/plans/document'
import { type Input } from '@/core/plans/input'
import { placesOf, standsAt, valueAt } from '@/core/plans/places'
import { InlineAction, InlineChoice, InlineText } from '../ticket/Inline'

/** A name that the plan has not given yet. */
export function freshInput({ inputs = [] }: Plan): Input {
  for (let n = 1; ; n++) {
    const name = `value_${n}`
    if (!inputs.some((one) => one.name === name)) return { name, value: '20' }
  }
}

/** The values that a plan names, each in one place; their names may stand in its rule text. */
export function InputsPart({ plan, change }: { plan: Plan; change(plan: Plan): void }) {
  const { inputs = [] } = plan
  if (inputs.length === 0) return null
  const put = (i: number, next: Input | undefined) => {
    const after = inputs.flatMap((one, k) => (k === i ? (next ? [next] : []) : [one]))
    change({ ...plan, inputs: after.length > 0 ? after : undefined })
  }
  return (
    <>
      <dt>With</dt>
      <dd>
        {inputs.map((one, i) => (
          <span key={i} style={{ display: 'inline-block', marginRight: 16 }}>
            <InlineText
              label={`Name of value ${i + 1}`}
              among={[]}
              most={30}
              value={one.name}
              onChange={(name) => /^[a-z][a-z0-9_]{0,29}$/.test(name) && put(i, { ...one, name })}
            />{' '}
            ={' '}
            <InlineText
              label={`Value of ${one.name}`}
              among={[]}
              most={400}
              value={one.value}
              onChange={(value) => value.trim() !== '' && put(i, { ...one, value })}
            />{' '}
            <StandsAt plan={plan} input={one} change={(next) => put(i, next)} />{' '}
            <InlineAction label={`Take ${one.name} away`} onAct={() => put(i, undefined)}>
              take away
            </InlineAction>
          </span>
        ))}
      </dd>
    </>
  )
}

/** Where a value stands besides rule text, and where it may. */
function StandsAt({ plan, input, change }: { plan: Plan; input: Input; change(input: Input): void }) {
  const { name, value, at = [] } = input
  const places = placesOf(plan)
  const taken = new Set((plan.inputs ?? []).flatMap((one) => one.at ?? []))
  const free = places.filter(
    ({ path }) => !taken.has(path) && valueAt(path, standsAt(plan, path), value) !== undefined,
  )
  return (
    <>
      {at.map((path) => (
        <span key={path} className="soft">
          , at {places.find((one) => one.path === path)?.label ?? path}{' '}
          <InlineAction
            label={`Take ${name} away from ${path}`}
            onAct={() => change({ ...input, at: at.filter((one) => one !== path) })}
          >
            take away
          </InlineAction>
        </span>
      ))}{' '}
      {free.length > 0 && (
        <InlineChoice
          label={`Where ${name} stands as well`}
          value=""
          options={[
            ['', at.length === 0 ? 'by its name in rule text' : 'nowhere else'],
            ...free.map(({ path, label, value: stands }) => [path, `at ${label} (${stands})`] as const),
          ]}
          onChange={(path) => path !== '' && change({ ...input, at: [...at, path] })}
        />
      )}
    </>
  )
}
