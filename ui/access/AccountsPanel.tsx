'use client'
import { Button, Checkbox, Modal, NumberInput, Select, TextInput } from '@mantine/core'
import { useForm } from '@mantine/form'
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { moneyText } from '@/core/market/money'
import { type Account } from '@/core/orders/views'
import { useConnection } from '../link/connection'
import { useAccounts, useBroker, useServices, useVenues } from '../link/LinkProvider'
import { connect } from '../services/connect'
import css from '../shell/Shell.module.css'
import { tell, tellProblem } from '../shell/tell'
import { type Column, DataTable } from '../table/DataTable'
import { rulesText } from './rulesText'
import { sayProblem } from './UseKey'

const START = { account: '', cash: 50_000, currency: 'USD', margin: true, short: true, optionLevel: '2' }

const LEVELS = [
  { value: '0', label: '0: no options' },
  { value: '1', label: '1: covered calls, cash-secured puts' },
  { value: '2', label: '2: also bought options' },
  { value: '3', label: '3: also spreads' },
  { value: '4', label: '4: also uncovered' },
]

/** Which account the page is about, and how another is opened. */
export function AccountsPanel({ opened, onClose }: { opened: boolean; onClose(): void }) {
  const environment = useConnection((s) => s.environment)
  return (
    <Modal
      opened={opened}
      onClose={onClose}
      title={`Accounts on ${environment}`}
      size={820}
      keepMounted={false}
    >
      <Choice onClose={onClose} />
      <OpenAccount />
    </Modal>
  )
}

function Choice({ onClose }: { onClose(): void }) {
  const services = useServices()
  const accounts = useAccounts().data ?? []
  const { environment, account } = useConnection()
  const current = account ?? accounts[0]?.account
  const choose = async (name: string) => {
    try {
      await connect(services, { environment, source: services.broker.access.source, account: name })
      tell(`The page is about ${name} now.`)
      onClose()
    } catch (error) {
      tellProblem(error)
    }
  }
  const columns: Column<Account>[] = [
    {
      id: 'account',
      header: 'account',
      value: (one) => one.account,
      cell: (one) => <strong>{one.account}</strong>,
    },
    { id: 'rules', header: 'rules', value: (one) => rulesText(one) },
    {
      id: 'equity',
      header: 'equity',
      right: true,
      value: (one) => one.equity,
      cell: (one) => moneyText(one.equity, one.currency),
    },
    {
      id: 'use',
      header: '',
      value: () => undefined,
      cell: (one) =>
        one.account === current ? (
          <span className="soft">in use here</span>
        ) : (
          <Button size="compact-xs" variant="default" onClick={() => choose(one.account)}>
            Use {one.account}
          </Button>
        ),
    },
  ]
  return <DataTable label="Accounts" wrap rows={accounts} columns={columns} idOf={(one) => one.account} />
}

function OpenAccount() {
  const broker = useBroker()
  const queries = useQueryClient()
  const environment = useConnection((s) => s.environment)
  const currencies = [...new Set((useVenues().data ?? []).map((venue) => venue.currency))]
  const [problem, setProblem] = useState('')
  const form = useForm({
    initialValues: START,
    validate: {
      account: (v) =>
        /^[A-Z0-9][A-Z0-9-]{0,19}$/.test(v) ? null : 'Use 1 to 20 capital letters, digits or -',
    },
  })
  const submit = form.onSubmit(async ({ optionLevel, short, ...asked }) => {
    try {
      const { account } = await broker.openAccount({
        ...asked,
        short: asked.margin && short,
        optionLevel: Number(optionLevel),
      })
      setProblem('')
      form.setValues(START)
      tell(`The account ${account} is open.`)
      await queries.invalidateQueries({ queryKey: [environment, 'accounts'] })
    } catch (error) {
      setProblem(sayProblem(error))
    }
  })
  return (
    <form onSubmit={submit} className={css.field} aria-label="Open another account">
      <h3>Open another account</h3>
      {problem && (
        <p role="alert" className="refusal">
          {problem}
        </p>
      )}
      <div style={{ display: 'grid', gridTemplateColumns: '1fr 1fr 1fr 1.4fr', gap: 12 }}>
        <TextInput
          label="Name"
          placeholder={environment === 'live' ? 'LIVE-2' : 'PAPER-2'}
          {...form.getInputProps('account')}
          onChange={(e) => form.setFieldValue('account', e.currentTarget.value.toUpperCase())}
        />
        <NumberInput
          label="Cash to begin with"
          min={0}
          max={1_000_000_000}
          thousandSeparator
          hideControls
          {...form.getInputProps('cash')}
        />
        <Select label="In" data={currencies} allowDeselect={false} {...form.getInputProps('currency')} />
        <Select
          label="Option level"
          data={LEVELS}
          allowDeselect={false}
          {...form.getInputProps('optionLevel')}
        />
      </div>
      <div style={{ display: 'flex', gap: 18 }}>
        <Checkbox label="Margin: half is lent" {...form.getInputProps('margin', { type: 'checkbox' })} />
        <Checkbox
          label="May sell short"
          {...form.getInputProps('short', { type: 'checkbox' })}
          disabled={!form.values.margin}
          checked={form.values.margin && form.values.short}
        />
      </div>
      <div className={css.actions}>
        <Button type="submit">Open the account</Button>
      </div>
    </form>
  )
}
