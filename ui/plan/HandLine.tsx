import { useLiveQuery } from 'dexie-react-hooks'
import { handKey } from '@/core/engine/byHand'
import { db } from '@/store/db'
import { useServices, useWorldId } from '../link/LinkProvider'
import { InlineAction } from '../ticket/Inline'

/** Securities that a plan enters no more, since a hand changed its position there, until they are handed back. */
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
      {row.symbol}: {row.text}. The plan enters there no more.{' '}
      <InlineAction
        label={`Hand ${row.symbol} back`}
        onAct={() => {
          void db.seen.put({ ...row, became: 'Seen' })
          plans.tellAll({ is: 'seen', key: row.key, became: 'Seen', note: row.note }, plan)
        }}
      >
        hand it back
      </InlineAction>
    </p>
  ))
}
