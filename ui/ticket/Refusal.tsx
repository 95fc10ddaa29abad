import { type BrokerProblem } from '@/client'
import { Checks } from './Checks'

/** Why the broker refused what was sent, with every check that it was put to. */
export function Refusal({ problem }: { problem: BrokerProblem }) {
  const { title, detail, mend, checks } = problem
  return (
    <>
      <p className="refusal">
        <strong>{title}.</strong> {checks.length === 0 && `${detail} ${mend}`}
      </p>
      {checks.length > 0 && <Checks checks={checks} />}
    </>
  )
}
