import { Button, CopyButton, Select, Text, TextInput } from '@mantine/core'
import { useForm } from '@mantine/form'
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { type CsvToken, type Scope, type WhoAmI } from '@/core/orders/access'
import { useConnection } from '../link/connection'
import { useBroker } from '../link/LinkProvider'
import css from '../shell/Shell.module.css'
import { sayProblem } from './UseKey'

/** Tables that a spreadsheet may pull. `needs` says what is to be filled in for one. */
const TABLES = [
  { value: 'orders', label: 'orders of today', path: '/orders', of: 'account' },
  { value: 'working', label: 'working orders', path: '/orders?which=working', of: 'account' },
  { value: 'positions', label: 'positions', path: '/positions', of: 'account' },
  { value: 'executions', label: 'executions', path: '/executions', of: 'account' },
  { value: 'account', label: 'the account now', path: '/account', of: 'account' },
  { value: 'history', label: 'the account at each close', path: '/history', of: 'account' },
  { value: 'statement', label: 'statement: all that moved cash', path: '/statement', of: 'account' },
  { value: 'quotes', label: 'quotes of some securities', path: '/quotes?symbols=', of: 'symbols' },
  {
    value: 'bars',
    label: 'daily bars of a security',
    path: '/securities/*/bars?every=1%20day',
    of: 'symbol',
  },
] as const
type Table = (typeof TABLES)[number]

/** Where a table lies, with the token in it. */
function urlOf(base: string, { path, of }: Table, token: string, account: string, symbols: string): string {
  const named = encodeURIComponent(
    symbols
      .trim()
      .toUpperCase()
      .replaceAll(/[\s,]+/g, ','),
  )
  const asked = of === 'symbol' ? path.replace('*', named) : of === 'symbols' ? path + named : path
  const url = new URL(base + asked)
  if (of === 'account') url.searchParams.set('account', account)
  url.searchParams.set('format', 'csv')
  url.searchParams.set('csvToken', token)
  return url.href.replaceAll('%2C', ',')
}

/** Makes a token that may stand in a URL, and the URLs of tables with it. */
export function TableUrl({ who }: { who: WhoAmI }) {
  const broker = useBroker()
  const queries = useQueryClient()
  const environment = useConnection((s) => s.environment)
  const [made, setMade] = useState<CsvToken>()
  const [problem, setProblem] = useState('')
  const form = useForm({
    initialValues: { label: '', account: broker.account ?? who.account ?? '' },
    validate: { label: (v) => (v.trim() === '' ? 'Say what it is for, to know it again' : null) },
  })
  const submit = form.onSubmit(async ({ label, account }) => {
    try {
      const scopes = (['see-market', 'see-account'] as const).filter((scope: Scope) =>
        who.scopes.includes(scope),
      )
      setMade(await broker.createCsvToken({ label: label.trim(), scopes, accounts: [account] }))
      setProblem('')
      await queries.invalidateQueries({ queryKey: [environment, 'keys'] })
    } catch (error) {
      setProblem(sayProblem(error))
    }
  })
  if (made) return <Urls made={made} account={form.values.account} />
  return (
    <form onSubmit={submit} className={css.field} aria-label="A table by URL">
      <Text className="soft">
        A spreadsheet reads a table from a URL that has a token in it. Whoever has the URL can read what the
        token may see; nobody can send an order with it. It holds until it is withdrawn under All keys.
      </Text>
      {problem && (
        <p role="alert" className="refusal">
          {problem}
        </p>
      )}
      <div style={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 12 }}>
        <TextInput
          label="What it is for"
          placeholder="my day sheet"
          {...form.getInputProps('label')}
          data-autofocus
        />
        <Select
          label="Account"
          data={who.accounts}
          allowDeselect={false}
          {...form.getInputProps('account')}
        />
      </div>
      <div className={css.actions}>
        <Button type="submit">Make the URL</Button>
      </div>
    </form>
  )
}

function Urls({ made, account }: { made: CsvToken; account: string }) {
  const broker = useBroker()
  const [table, setTable] = useState<Table>(TABLES[0])
  const [symbols, setSymbols] = useState('')
  const missing = table.of !== 'account' && symbols.trim() === ''
  const url = urlOf(broker.access.base, table, made.csvToken, account, symbols)
  return (
    <section aria-label="URL of a table" className={css.field}>
      <Text>
        <strong>{made.label}</strong> is ready. Its token is told this once; take the URLs that you need now.
      </Text>
      <div style={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 12 }}>
        <Select
          label="Table"
          data={TABLES.map(({ value, label }) => ({ value, label }))}
          allowDeselect={false}
          value={table.value}
          onChange={(value) => setTable(TABLES.find((one) => one.value === value)!)}
        />
        {table.of !== 'account' && (
          <TextInput
            label={table.of === 'symbol' ? 'Security' : 'Securities'}
            placeholder={table.of === 'symbol' ? 'OSPRY' : 'OSPRY, GANET'}
            value={symbols}
            onChange={(e) => setSymbols(e.currentTarget.value)}
          />
        )}
      </div>
      {missing ? (
        <p className="soft">Say which.</p>
      ) : (
        <>
          <p className="mono" data-testid="url" style={{ overflowWrap: 'anywhere' }}>
            {url}
          </p>
          <div className={css.actions}>
            <CopyButton value={url}>
              {({ copied, copy }) => <Button onClick={copy}>{copied ? 'Copied' : 'Copy the URL'}</Button>}
            </CopyButton>
          </div>
        </>
      )}
    </section>
  )
}
