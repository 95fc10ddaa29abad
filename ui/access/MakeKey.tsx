import { Button, Checkbox, MultiSelect, TextInput } from '@mantine/core'
import { useForm } from '@mantine/form'
import { useQueryClient } from '@tanstack/react-query'
import { DateTime } from 'luxon'
import { useState } from 'react'
import { type KeyWithSecret, SCOPE_FOR, type Scope, type WhoAmI } from '@/core/orders/access'
import { useConnection } from '../link/connection'
import { useBroker } from '../link/LinkProvider'
import css from '../shell/Shell.module.css'
import { NewSecret } from './NewSecret'
import { sayProblem } from './UseKey'

const START = {
  label: '',
  scopes: ['see-market', 'see-account'] as Scope[],
  accounts: [] as string[],
  venues: [] as string[],
  expires: '',
  addresses: '',
}

/** Makes a key of at most the rights of the one in use. */
export function MakeKey({ who }: { who: WhoAmI }) {
  const broker = useBroker()
  const queries = useQueryClient()
  const environment = useConnection((s) => s.environment)
  const [made, setMade] = useState<KeyWithSecret>()
  const [problem, setProblem] = useState('')
  const form = useForm({
    initialValues: START,
    validate: {
      label: (v) => (v.trim() === '' ? 'Say what it is for, to know it again' : null),
      scopes: (v) => (v.length === 0 ? 'Choose at least one' : null),
      expires: (v) =>
        v !== '' && !(DateTime.fromISO(v) > DateTime.now()) ? 'Choose a day that lies ahead' : null,
    },
  })
  const venues = Object.keys(who.rights).filter((mic) => who.rights[mic] !== 'none')
  const submit = form.onSubmit(async ({ label, scopes, accounts, venues: chosen, expires, addresses }) => {
    const from = addresses.split(/[\s,]+/).filter(Boolean)
    try {
      setMade(
        await broker.createKey({
          label: label.trim(),
          scopes,
          ...(accounts.length > 0 ? { accounts } : {}),
          ...(chosen.length > 0 ? { venues: chosen } : {}),
          ...(expires === '' ? {} : { expires: DateTime.fromISO(expires).endOf('day').toISO()! }),
          ...(from.length > 0 ? { addresses: from } : {}),
        }),
      )
      setProblem('')
      form.setValues(START)
      await queries.invalidateQueries({ queryKey: [environment, 'keys'] })
    } catch (error) {
      setProblem(sayProblem(error))
    }
  })
  if (made) return <NewSecret made={made} done={() => setMade(undefined)} />
  return (
    <form onSubmit={submit} className={css.field}>
      {problem && (
        <p role="alert" className="refusal">
          {problem}
        </p>
      )}
      <TextInput
        label="What it is for"
        placeholder="morning script"
        {...form.getInputProps('label')}
        data-autofocus
      />
      <Checkbox.Group label="It may" {...form.getInputProps('scopes')}>
        <div style={{ display: 'flex', gap: 18, marginTop: 4 }}>
          {who.scopes.map((scope) => (
            <Checkbox key={scope} value={scope} label={SCOPE_FOR[scope]} />
          ))}
        </div>
      </Checkbox.Group>
      <div style={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 12 }}>
        <MultiSelect
          label="For these accounts"
          placeholder={form.values.accounts.length > 0 ? undefined : 'those of the key in use'}
          data={who.accounts}
          {...form.getInputProps('accounts')}
        />
        <MultiSelect
          label="Prices of these venues"
          placeholder={form.values.venues.length > 0 ? undefined : 'those of the key in use'}
          data={venues}
          {...form.getInputProps('venues')}
        />
        <TextInput
          label="Until the end of"
          description="Left empty, until it is withdrawn"
          type="date"
          {...form.getInputProps('expires')}
        />
        <TextInput
          label="Only from these addresses"
          description="Left empty, from anywhere"
          placeholder="127.0.0.1, 10.0.0.0/8"
          {...form.getInputProps('addresses')}
        />
      </div>
      <div className={css.actions}>
        <Button type="submit">Make the key</Button>
      </div>
    </form>
  )
}
