import { useLiveQuery } from 'dexie-react-hooks'
import { handKey } from '@/core/engine/byHand'
import { db } from '@/store/db'
import { useServices, useWorldId } from '../link/LinkProvider'
import { InlineAction } from '../ticket/Inline'

/** Securities that a plan enters no more, since a hand was at what it held there, until it is let. */
export function HandLine({ plan }: { plan: string }) {
  const { plans } = useServices()
  const rows = useLiveQuery(() => db.seen.where('plan').equals(plan).toArray(), [plan]) ?? []
  const worldId = useWorldId()
  const blocked = rows.filter(
    ({ key, symbol, became, world = worldId }) =>
      key === handKey(symbol) && became === 'Declined' && world === worldId,
  )
  return blocked.map((row) => (
    <p key={row.key} role="status" className="warning">
      {row.symbol}: {row.text}. It enters there no more.{' '}
      <InlineAction
        label={`Let it enter ${row.symbol} again`}
        onAct={() => {
          void db.seen.put({ ...row, became: 'Seen' })
          plans.tellAll({ is: 'seen', key: row.key, became: 'Seen', note: row.note }, plan)
        }}
      >
        let it again
      </InlineAction>
    </p>
  ))
}
