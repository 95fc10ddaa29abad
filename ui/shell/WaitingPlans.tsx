import { Button, Modal, PasswordInput } from '@mantine/core'
import { useLiveQuery } from 'dexie-react-hooks'
import { useState } from 'react'
import { baseOf, keyTokens } from '@/client'
import { db } from '@/store/db'
import { unlockSecret } from '@/store/secrets'
import { useServices } from '../link/LinkProvider'
import { connect } from '../services/connect'
import { useRuns, type WaitingRow } from '../services/useRuns'
import css from './Shell.module.css'
import { tell, tellProblem } from './tell'

const clock = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' })

/** Plans whose tab was closed or loaded again, and that wait for the trader: named in the headline, each with what it waits for. */
export function WaitingPlans() {
  const all = useRuns((s) => s.waiting)
  const [opened, setOpened] = useState(false)
  if (all.length === 0) return null
  return (
    <>
      <span className={css.dot}>·</span>
      <span role="alert">
        <button type="button" className="blank warning" onClick={() => setOpened(true)}>
          {all.length === 1 ? `${all[0].row.plan.name} waits for you` : `${all.length} plans wait for you`}
        </button>
      </span>
      <Modal opened={opened} onClose={() => setOpened(false)} title="Plans that do not run now">
        {all.map((one) => (
          <Waiting key={one.row.plan.id} {...one} />
        ))}
      </Modal>
    </>
  )
}

function Waiting({ row, why, trouble }: WaitingRow) {
  const { plans } = useServices()
  const { plan, acts, environment, account, keyId, alive } = row
  const where = `${environment === 'live' ? 'LIVE' : 'paper'} ${account}`
  const goOn = () => plans.goOn(plan.id).then(() => tell(`${plan.name} goes on in ${where}.`), tellProblem)
  return (
    <section className={css.field} aria-label={plan.name}>
      <p>
        <b>{plan.name}</b> was {acts ? 'armed' : 'watching'} in {where} until {clock.format(alive)}. Stops and
        targets of what it holds are at the broker; times at which it would sell are not.
      </p>
      <p>{REASONS[why](trouble)}</p>
      {keyId !== undefined && why !== 'goes on' && <KeyNeeded row={row} />}
      <div className={css.actions}>
        <Button variant="default" onClick={() => void plans.letEnd(plan.id)}>
          Let it end
        </Button>
        {why !== 'key' && <Button onClick={() => void goOn()}>Go on in {where}</Button>}
      </div>
    </section>
  )
}

const REASONS: Record<WaitingRow['why'], (trouble?: string) => string> = {
  'goes on': (trouble) => `It could not go on, and is tried again every ten seconds. ${trouble ?? ''}`,
  late: () => 'Its tab has been gone for more than 15 minutes, so it asks before it goes on.',
  live: () => 'A live plan never goes on without being asked.',
  key: () => 'It trades with a key that is locked. Unlock the key, and the plan goes on.',
}

/** The passphrase of the key that a plan trades with. */
function KeyNeeded({ row: { keyId, environment, account } }: Pick<WaitingRow, 'row'>) {
  const services = useServices()
  const kept = useLiveQuery(() => db.keys.get(keyId!), [keyId])
  const [passphrase, setPassphrase] = useState('')
  const [unlocking, setUnlocking] = useState(false)
  if (!kept?.locked)
    return (
      <p className="warning">
        This browser does not keep the secret of {keyId}. Use that key under Keys, in the menu of the
        environment.
      </p>
    )
  const unlock = async () => {
    setUnlocking(true)
    const secret = await unlockSecret(kept.locked!, passphrase).finally(() => setUnlocking(false))
    setPassphrase('')
    if (secret === undefined)
      return tellProblem(new Error('That is not the passphrase of this key. Nothing was sent.'))
    const source = keyTokens(baseOf(services.broker.access.brokerUrl, environment), keyId!, secret)
    await connect(services, { environment, source, account })
  }
  return (
    <form
      className={css.actions}
      onSubmit={(e) => {
        e.preventDefault()
        unlock().catch(tellProblem)
      }}
    >
      <PasswordInput
        aria-label={`Passphrase of ${keyId}`}
        placeholder={`passphrase of ${keyId}`}
        value={passphrase}
        onChange={(e) => setPassphrase(e.currentTarget.value)}
        readOnly={unlocking}
        style={{ flex: 1 }}
      />
      <Button type="submit" variant="default" disabled={passphrase === ''} loading={unlocking}>
        Unlock
      </Button>
    </form>
  )
}
