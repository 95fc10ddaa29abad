import { Button, Checkbox, FileButton, PasswordInput, Table, Text, TextInput } from '@mantine/core'
import { useForm } from '@mantine/form'
import { useLiveQuery } from 'dexie-react-hooks'
import { useState } from 'react'
import * as z from 'zod'
import { baseOf, BrokerProblem, keyTokens } from '@/client'
import { type Environment } from '@/core/orders/access'
import { db, type KeptKey, sayStorageError } from '@/store/db'
import { lockSecret, unlockSecret } from '@/store/secrets'
import { useConnection } from '../link/connection'
import { useServices } from '../link/LinkProvider'
import { connect } from '../services/connect'
import { demoTokens } from '../services/demoTokens'
import css from '../shell/Shell.module.css'
import { tell } from '../shell/tell'

const empty = { keyId: '', secret: '', keep: false, passphrase: '', live: false }

const KeyFile = z.object({ keyId: z.string(), secret: z.string() })

/** Ids of keys begin with their environment. */
const environmentOf = (keyId: string): Environment => (keyId.trim().startsWith('live-') ? 'live' : 'paper')

export const sayProblem = (error: unknown): string =>
  error instanceof BrokerProblem ? `${error.title}. ${error.detail} ${error.mend}` : sayStorageError(error)

/** Which key the page talks with. A secret is kept only if asked for, locked with a passphrase. */
export function UseKey() {
  const services = useServices()
  const isDemo = useConnection((s) => s.isDemo)
  const keys = useLiveQuery(() => db.keys.toArray(), [], [])
  const [problem, setProblem] = useState('')
  const form = useForm({
    initialValues: empty,
    validate: {
      keyId: (v) => (v.trim() === '' ? 'Paste the key id' : null),
      secret: (v) => (v.trim() === '' ? 'Paste the secret' : null),
      passphrase: (v, all) => (all.keep && v.length < 8 ? 'Use at least 8 characters' : null),
      live: (v, all) =>
        environmentOf(all.keyId) === 'live' && !v ? 'Say that this page is to go live' : null,
    },
  })
  const isLive = environmentOf(form.values.keyId) === 'live'
  // What is typed while a key is taken up would be emptied with the rest.
  const typed = { autoComplete: 'off', readOnly: form.submitting }
  const takeUp = async (keyId: string, secret: string): Promise<boolean> => {
    const environment = environmentOf(keyId)
    try {
      const base = baseOf(services.broker.access.brokerUrl, environment)
      await connect(services, { environment, source: keyTokens(base, keyId, secret) })
      setProblem('')
      tell(`The key ${keyId} is in use.`)
      return true
    } catch (error) {
      setProblem(sayProblem(error))
      return false
    }
  }
  const submit = form.onSubmit(async ({ keyId, secret, keep, passphrase }) => {
    if (form.submitting || !(await takeUp(keyId.trim(), secret.trim()))) return
    try {
      await db.keys.put({
        keyId: keyId.trim(),
        name: 'my key',
        locked: keep ? await lockSecret(secret.trim(), passphrase) : undefined,
      })
      form.setValues(empty)
    } catch (error) {
      setProblem(sayStorageError(error))
    }
  })
  const open = async (file: File | null) => {
    if (!file) return
    const read = KeyFile.safeParse(
      await file
        .text()
        .then(JSON.parse)
        .catch(() => undefined),
    )
    if (!read.success)
      return setProblem(`${file.name} is no file of a key; it holds keyId and secret as JSON.`)
    setProblem('')
    form.setValues({ ...read.data })
  }
  const backToDemo = () =>
    connect(services, { environment: 'paper', source: demoTokens }).then(
      () => tell('The demo’s key is in use, on paper.'),
      (error: unknown) => setProblem(sayProblem(error)),
    )
  return (
    <>
      {problem && (
        <Text role="alert" className="refusal" mt={8}>
          {problem}
        </Text>
      )}
      {keys.length > 0 && (
        <Table mt={12} aria-label="Known keys">
          <Table.Tbody>
            {keys.map((key) => (
              <KeyRow key={key.keyId} stored={key} takeUp={takeUp} problem={setProblem} />
            ))}
          </Table.Tbody>
        </Table>
      )}
      <form onSubmit={submit} className={css.field}>
        <TextInput label="Key id" {...form.getInputProps('keyId')} {...typed} />
        <PasswordInput label="Secret" {...form.getInputProps('secret')} {...typed} />
        <Checkbox
          label="Keep the secret in this browser, locked with a passphrase"
          {...form.getInputProps('keep', { type: 'checkbox' })}
        />
        {form.values.keep && (
          <PasswordInput
            label="Passphrase"
            description="It is not kept: without it the secret cannot be read, by anyone."
            {...form.getInputProps('passphrase')}
            autoComplete="new-password"
            readOnly={typed.readOnly}
          />
        )}
        {isLive && (
          <Checkbox
            label="This page goes LIVE with it, in the stand-in: no real money, but as if it were"
            {...form.getInputProps('live', { type: 'checkbox' })}
          />
        )}
        <div className={css.actions}>
          {!isDemo && (
            <Button variant="default" onClick={backToDemo}>
              Back to the demo’s key
            </Button>
          )}
          <FileButton onChange={open} accept="application/json,.json">
            {(props) => (
              <Button variant="default" {...props}>
                Open a key file
              </Button>
            )}
          </FileButton>
          <Button type="submit" color={isLive ? 'red' : undefined}>
            {isLive ? 'Go LIVE with this key' : 'Use this key'}
          </Button>
        </div>
      </form>
    </>
  )
}

function KeyRow({
  stored,
  takeUp,
  problem,
}: {
  stored: KeptKey
  takeUp(keyId: string, secret: string): Promise<boolean>
  problem(text: string): void
}) {
  const [passphrase, setPassphrase] = useState('')
  const [unlocking, setUnlocking] = useState(false)
  const live = environmentOf(stored.keyId) === 'live'
  const unlock = async () => {
    setUnlocking(true)
    const secret = await unlockSecret(stored.locked!, passphrase).finally(() => setUnlocking(false))
    setPassphrase('')
    if (secret === undefined) problem('That is not the passphrase of this key. Nothing was sent.')
    else await takeUp(stored.keyId, secret)
  }
  return (
    <Table.Tr>
      <Table.Td className="mono">{stored.keyId}</Table.Td>
      <Table.Td>
        {stored.locked ? (
          <div style={{ display: 'flex', gap: 6 }}>
            <PasswordInput
              aria-label={`Passphrase of ${stored.keyId}`}
              placeholder="passphrase"
              value={passphrase}
              onChange={(e) => setPassphrase(e.currentTarget.value)}
              readOnly={unlocking}
              size="xs"
              w={160}
            />
            <Button
              variant="default"
              color={live ? 'red' : undefined}
              onClick={unlock}
              disabled={passphrase === ''}
              loading={unlocking}
            >
              {live ? 'Unlock and go LIVE' : 'Unlock and use'}
            </Button>
          </div>
        ) : (
          <span className="soft">its secret is not kept</span>
        )}
      </Table.Td>
      <Table.Td>
        <Button variant="subtle" onClick={() => db.keys.delete(stored.keyId)}>
          Forget
        </Button>
      </Table.Td>
    </Table.Tr>
  )
}
