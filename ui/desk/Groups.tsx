import { Button } from '@mantine/core'
import { useQueryClient } from '@tanstack/react-query'
import { decimal } from '@/core/market/money'
import { securityText } from '@/core/options/words'
import { type GroupView } from '@/core/orders/views'
import { useBroker, useGroups } from '../link/LinkProvider'
import { Change } from '../shell/Change'
import { tell, tellProblem } from '../shell/tell'
import { type Column, DataTable } from '../table/DataTable'
import { newId } from '../ticket/ticketStore'

/** What a group holds: "long 20 GANET, short 20 OSPRY". */
const heldText = ({ legs }: GroupView): string =>
  legs.length === 0
    ? 'closed'
    : legs
        .map(
          ({ symbol, quantity }) =>
            `${quantity > 0 ? 'long' : 'short'} ${decimal(Math.abs(quantity), 0)} ${securityText(symbol)}`,
        )
        .join(', ')

function CloseGroup({ of }: { of: GroupView }) {
  const broker = useBroker()
  const queries = useQueryClient()
  const close = async () => {
    try {
      const orders = await broker.closeGroup(of.group, newId('close').slice(0, 36))
      tell(`${orders.length === 1 ? 'One order closes' : `${orders.length} orders close`} ${of.group}.`)
    } catch (error) {
      tellProblem(error)
    }
    await queries.invalidateQueries()
  }
  return (
    <Button size="compact-xs" variant="default" onClick={close}>
      Close all of it
    </Button>
  )
}

const columns: Column<GroupView>[] = [
  { id: 'group', header: 'Group', value: (g) => g.group, cell: (g) => <strong>{g.group}</strong> },
  { id: 'held', header: 'Holds', value: heldText },
  {
    id: 'realized',
    header: 'Taken',
    right: true,
    value: (g) => g.realized,
    cell: (g) => <Change value={g.realized} />,
  },
  {
    id: 'profit',
    header: 'Profit after fees',
    right: true,
    value: (g) => g.profit,
    cell: (g) => <Change value={g.profit} />,
  },
  {
    id: 'close',
    header: '',
    value: () => undefined,
    cell: (g) => g.legs.length > 0 && <CloseGroup of={g} />,
  },
]

/** Orders that belong together, each group as one line with one profit; nothing where there are none. */
export function Groups() {
  const groups = useGroups().data
  if (!groups || groups.length === 0) return null
  return (
    <section aria-label="Groups" style={{ marginTop: 10 }}>
      <DataTable label="Groups" wrap rows={groups} columns={columns} idOf={(g) => g.group} />
    </section>
  )
}
