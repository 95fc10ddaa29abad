import { type Gone } from '@/core/plans/entry'
import { InlineChoice } from '../ticket/Inline'
import { NumberBlank } from './blanks'

type GoneKind = 'percent' | 'ticks' | 'risk'

/** Ways that a price may have gone, to begin with. */
export const FIRST_GONE: Record<GoneKind, Gone> = {
  percent: { percent: 2 },
  ticks: { ticks: 40 },
  risk: { risk: 1 },
}

/** A way that the price has gone, in a sentence. */
export function GoneBlank({ label, gone, change }: { label: string; gone: Gone; change(gone: Gone): void }) {
  const [kind] = Object.keys(gone) as [GoneKind]
  return (
    <>
      <NumberBlank
        label={label}
        needed
        value={(gone as Record<GoneKind, number>)[kind]}
        onChange={(value) =>
          change({ [kind]: kind === 'ticks' ? Math.max(1, Math.round(value!)) : value! } as never)
        }
      />{' '}
      <InlineChoice
        label={`${label} is measured in`}
        value={kind}
        options={[
          ['percent', '%'],
          ['ticks', 'ticks'],
          ['risk', 'times the risk'],
        ]}
        onChange={(next) => change(FIRST_GONE[next])}
      />
    </>
  )
}
