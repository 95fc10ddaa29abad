'use client'
import { ActionIcon, Button, Menu, Modal, Select, TextInput } from '@mantine/core'
import { useForm } from '@mantine/form'
import { IconX } from '@tabler/icons-react'
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { BrokerProblem } from '@/client'
import { wrongGate } from '@/core/orders/gates'
import { type Gate } from '@/core/orders/gate'
import { useAccount, useBroker } from '../link/LinkProvider'
import css from '../shell/Shell.module.css'
import { tell } from '../shell/tell'
import { sayProblem } from './UseKey'

/** What a trader most often forgets, to begin with. */
const USUAL: readonly Gate[] = [
  { name: 'largest order', rule: 'order value <= 20000', otherwise: 'Refuse' },
  { name: 'price collar', rule: 'price away <= 5%', otherwise: 'Refuse' },
  { name: 'widest spread', rule: 'quoted spread <= 1%', otherwise: 'Refuse' },
  { name: 'largest loss', rule: 'order loss <= 500', otherwise: 'Refuse' },
  { name: 'entries a day', rule: 'entries today < 3', otherwise: 'Refuse' },
  { name: 'orders a minute', rule: 'orders this minute < 10', otherwise: 'Refuse' },
  { name: 'the same again', rule: 'minutes since same > 5', otherwise: 'Refuse' },
  { name: 'ask first', rule: 'order value <= 10000', otherwise: 'AskFirst' },
]

/** Checks of the account's own, which orders of every sender must pass. */
export function GatesPanel({ opened, onClose }: { opened: boolean; onClose(): void }) {
  const account = useAccount().data
  return (
    <Modal
      opened={opened}
      onClose={onClose}
      title={`Gates of ${account?.account ?? 'the account'}`}
      size={820}
      keepMounted={false}
    >
      {account && <GatesForm gates={account.gates} done={onClose} />}
    </Modal>
  )
}

function GatesForm({ gates, done }: { gates: readonly Gate[]; done(): void }) {
  const broker = useBroker()
  const queries = useQueryClient()
  const [problem, setProblem] = useState('')
  const form = useForm({
    initialValues: { gates: gates.map((gate) => ({ ...gate })) },
    validate: {
      gates: {
        name: (name) => (name.trim() ? null : 'Give it a name'),
        rule: (rule) => (rule.trim() ? (wrongGate({ rule }) ?? null) : 'Write what must hold of an order'),
      },
    },
  })
  const left = USUAL.filter(({ name }) => !form.values.gates.some((gate) => gate.name === name))
  const submit = form.onSubmit(async ({ gates: asked }) => {
    try {
      await broker.setGates(asked)
      tell(asked.length === 0 ? 'The account has no gates now.' : 'The gates are set.')
      await queries.invalidateQueries()
      done()
    } catch (error) {
      setProblem(error instanceof BrokerProblem ? sayProblem(error) : String(error))
    }
  })
  return (
    <form onSubmit={submit} aria-label="Gates">
      <p className="soft">
        Each is rule text about an order that would open something, whoever sends it. What does not hold, or
        cannot be told, is refused, or waits until another key approves it.
      </p>
      {problem && (
        <p role="alert" className="refusal">
          {problem}
        </p>
      )}
      {form.values.gates.map((_gate, i) => (
        <div
          key={i}
          style={{ display: 'grid', gridTemplateColumns: '1fr 1.6fr 1fr 28px', gap: 10, marginBottom: 8 }}
        >
          <TextInput aria-label={`Name of gate ${i + 1}`} {...form.getInputProps(`gates.${i}.name`)} />
          <TextInput
            aria-label={`Rule of gate ${i + 1}`}
            styles={{ input: { fontFamily: 'var(--mono)', fontSize: 12.5 } }}
            {...form.getInputProps(`gates.${i}.rule`)}
          />
          <Select
            aria-label={`Otherwise, gate ${i + 1}`}
            allowDeselect={false}
            data={[
              { value: 'Refuse', label: 'else refuse' },
              { value: 'AskFirst', label: 'else ask first' },
            ]}
            {...form.getInputProps(`gates.${i}.otherwise`)}
          />
          <ActionIcon
            variant="subtle"
            color="gray"
            aria-label={`Take gate ${i + 1} away`}
            onClick={() => form.removeListItem('gates', i)}
          >
            <IconX size={16} />
          </ActionIcon>
        </div>
      ))}
      {form.values.gates.length === 0 && (
        <p>There are none yet: any order that the account can pay passes.</p>
      )}
      <div className={css.actions}>
        <Menu position="bottom-start">
          <Menu.Target>
            <Button variant="default">Add a gate</Button>
          </Menu.Target>
          <Menu.Dropdown>
            {left.map((gate) => (
              <Menu.Item key={gate.name} onClick={() => form.insertListItem('gates', { ...gate })}>
                {gate.name} <span className="soft mono">{gate.rule}</span>
              </Menu.Item>
            ))}
            <Menu.Item
              onClick={() => form.insertListItem('gates', { name: '', rule: '', otherwise: 'Refuse' })}
            >
              one of my own
            </Menu.Item>
          </Menu.Dropdown>
        </Menu>
        <Button type="submit">Set the gates</Button>
      </div>
    </form>
  )
}
