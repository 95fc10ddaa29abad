'use client'
import { Button, Modal } from '@mantine/core'
import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { type SetAside, type WorldView } from '@/core/orders/worlds'
import { useBroker } from '../link/LinkProvider'
import { clockText, dateText } from '../shell/marketTime'
import { tell, tellProblem } from '../shell/tell'
import { type Column, DataTable } from '../table/DataTable'
import css from './Access.module.css'
import { noteSeen } from './seenAside'
import { isSetAside, useRehearsals } from './useRehearsals'

/** Rehearsals, and worlds that could not be opened or were set aside, each with what to do. */
export function WorldsPanel({ opened, onClose }: { opened: boolean; onClose(): void }) {
  const all = useRehearsals().data ?? []
  const aside = all.filter(isSetAside)
  const names = aside.map(({ name }) => name).join()
  useEffect(() => noteSeen(names.split(',')), [names])
  return (
    <Modal
      opened={opened}
      onClose={onClose}
      title="Rehearsals and worlds set aside"
      size={820}
      keepMounted={false}
    >
      {aside.map((one) => (
        <AsideNote key={one.name} one={one} />
      ))}
      <Rehearsals rows={all.filter((one): one is WorldView => !isSetAside(one))} />
    </Modal>
  )
}

/** Only a rehearsal can be deleted; other entries are whole data folders, paper or live. */
const isRehearsal = ({ mend }: SetAside): boolean => mend.includes('/rehearsals/')

function AsideNote({ one }: { one: SetAside }) {
  return (
    <section aria-label={`Set aside: ${one.name}`} style={{ marginBottom: 16 }}>
      <p style={{ margin: 0 }}>
        <strong>{one.name}</strong> is set aside. {one.why}
      </p>
      <p className="soft" style={{ margin: '4px 0 6px' }}>
        {one.mend}
      </p>
      {isRehearsal(one) && <Remove id={one.name} />}
    </section>
  )
}

/** Deletes a rehearsal after a plain question. */
function Remove({ id }: { id: string }) {
  const broker = useBroker()
  const queries = useQueryClient()
  const [asking, setAsking] = useState(false)
  const remove = async () => {
    try {
      await broker.removeRehearsal(id)
      tell(`The rehearsal ${id} is deleted.`)
    } catch (error) {
      tellProblem(error)
    }
    setAsking(false)
    await queries.invalidateQueries({ queryKey: ['paper', 'rehearsals'] })
  }
  if (!asking)
    return (
      <Button
        size="compact-xs"
        variant="default"
        onClick={() => setAsking(true)}
        aria-label={`Delete the rehearsal ${id}`}
      >
        Delete
      </Button>
    )
  return (
    <span className={css.asking}>
      Its accounts and orders go with it.
      <Button size="compact-xs" color="red" onClick={remove} data-autofocus>
        Delete it
      </Button>
      <Button size="compact-xs" variant="default" onClick={() => setAsking(false)}>
        Leave it
      </Button>
    </span>
  )
}

const columns: Column<WorldView>[] = [
  { id: 'name', header: 'Rehearsal', value: (one) => one.name, cell: (one) => <strong>{one.name}</strong> },
  {
    id: 'now',
    header: 'Its clock',
    value: (one) => one.now,
    cell: (one) => `${dateText(one.now)} ${clockText(one.now)}, ${one.running ? 'runs' : 'stands'}`,
  },
  { id: 'epoch', header: 'Put back', right: true, value: (one) => one.epoch - 1, cell: timesText },
  { id: 'remove', header: 'Delete', value: () => undefined, cell: (one) => <Remove id={one.name} /> },
]

function timesText({ epoch }: WorldView): string {
  if (epoch === 1) return 'never'
  return epoch === 2 ? 'once' : `${epoch - 1} times`
}

function Rehearsals({ rows }: { rows: readonly WorldView[] }) {
  if (rows.length === 0)
    return (
      <p className="soft">
        No rehearsal stands. A script begins one with POST /rehearsals: the market lived through again from a
        past moment, with an account of its own.
      </p>
    )
  return <DataTable label="Rehearsals" rows={[...rows]} columns={columns} idOf={(one) => one.name} />
}
