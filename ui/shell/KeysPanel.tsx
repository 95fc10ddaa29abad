'use client'
import { Button, Checkbox, Modal, PasswordInput, Table, Text, TextInput } from '@mantine/core'
import { useForm } from '@mantine/form'
import { useLiveQuery } from 'dexie-react-hooks'
import { useState } from 'react'
import { db, type KeptKey, sayStorageError } from '@/store/db'
import { lockSecret, unlockSecret } from '@/store/secrets'
import { useBroker } from '../link/LinkProvider'
import { demoTokens } from '../services/demoTokens'
import { BrokerProblem, keyTokens } from '@/client'
import css from './Shell.module.css'
import { tell } from './tell'

const empty = { keyId: '', secret: '', keep: false, passphrase: '' }

/** Which key speaks to the broker. A secret is kept only if asked for, locked with a passphrase. */
export function KeysPanel({ opened, onClose }: { opened: boolean; onClose(): void }) {
  const broker = useBroker()
  const isDemo = broker.access.source === demoTokens
  const keys = useLiveQuery(() => db.keys.toArray(), [], [])
  const [problem, setProblem] = useState('')
  const form = useForm({
    initialValues: empty,
    validate: {
      keyId: (v) => (v.trim() === '' ? 'Paste the key id' : null),
      secret: (v) => (v.trim() === '' ? 'Paste the secret' : null),
      passphrase: (v, all) => (all.keep && v.length < 8 ? 'Use at least 8 characters' : null),
    },
  })
  const takeUp = async (keyId: string, secret: string): Promise<boolean> => {
    try {
      await broker.access.use(keyTokens(broker.access.base, keyId, secret))
      setProblem('')
      tell(`The key ${keyId} is in use.`)
      return true
    } catch (error) {
      setProblem(
        error instanceof BrokerProblem
          ? `${error.title}. ${error.detail} ${error.mend}`
          : sayStorageError(error),
      )
      return false
    }
  }
  const submit = form.onSubmit(async ({ keyId, secret, keep, passphrase }) => {
    if (!(await takeUp(keyId.trim(), secret.trim()))) return
    try {
      await db.keys.put({
        keyId: keyId.trim(),
        name: 'my key',
        locked: keep ? await lockSecret(secret.trim(), passphrase) : undefined,
      })
    } catch (error) {
      setProblem(sayStorageError(error))
    }
    form.setValues(empty)
  })
  return (
    <Modal opened={opened} onClose={onClose} title="Keys for the paper environment" size="lg">
      <Text>
        In use: <strong>{isDemo ? 'the key that the demo made' : broker.access.keyId}</strong>
        {isDemo
          ? '. Its secret stays on this machine’s server and is never in this page.'
          : '. Its secret is in memory until this page is closed.'}
      </Text>
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
        <h3>Use another key</h3>
        <TextInput label="Key id" {...form.getInputProps('keyId')} autoComplete="off" />
        <PasswordInput label="Secret" {...form.getInputProps('secret')} autoComplete="off" />
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
          />
        )}
        <div className={css.actions}>
          {!isDemo && (
            <Button
              variant="default"
              onClick={() =>
                broker.access.use(demoTokens).then(
                  () => tell('The demo’s key is in use.'),
                  (e: Error) => setProblem(e.message),
                )
              }
            >
              Back to the demo’s key
            </Button>
          )}
          <Button type="submit">Use this key</Button>
        </div>
      </form>
    </Modal>
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
  const unlock = async () => {
    const secret = await unlockSecret(stored.locked!, passphrase)
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
              size="xs"
              w={160}
            />
            <Button variant="default" onClick={unlock} disabled={passphrase === ''}>
              Unlock and use
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
