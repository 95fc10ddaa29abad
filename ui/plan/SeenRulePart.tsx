import { Became, SeenRule } from '@/core/plans/seen'
import { InlineChoice } from '../ticket/Inline'
import { NumberBlank } from './blanks'

const OPTIONS = Became.options

/** What of the seen book keeps a plan from acting again: by what it is remembered, what became of it, for how long. */
export function SeenRulePart({
  rule,
  change,
}: {
  rule: SeenRule | undefined
  change(rule: SeenRule | undefined): void
}) {
  return (
    <>
      , or on what it has seen before, by{' '}
      <InlineChoice
        label="Seen before by"
        value={rule?.by ?? 'none'}
        options={[
          ['none', 'nothing'],
          ['Key', 'event'],
          ['Symbol', 'security'],
        ]}
        onChange={(by) => change(by === 'none' ? undefined : SeenRule.parse({ ...rule, by }))}
      />
      {rule && (
        <>
          , where it was
          {OPTIONS.map((became) => {
            const on = rule.blocks.includes(became)
            return (
              <label key={became} style={{ fontSize: 14, marginLeft: 8, whiteSpace: 'nowrap' }}>
                <input
                  type="checkbox"
                  aria-label={`Blocked where ${became.toLowerCase()}`}
                  checked={on}
                  disabled={on && rule.blocks.length === 1}
                  onChange={() =>
                    change({
                      ...rule,
                      blocks: OPTIONS.filter((one) => (one === became ? !on : rule.blocks.includes(one))),
                    })
                  }
                />{' '}
                {became.toLowerCase()}
              </label>
            )
          })}
          , for{' '}
          <NumberBlank
            label="Days that it is remembered"
            value={rule.days}
            onChange={(days) => change({ ...rule, days: days === undefined ? undefined : Math.round(days) })}
          />{' '}
          days
        </>
      )}
    </>
  )
}
