import { Button } from '@mantine/core'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { DateTime } from 'luxon'
import { useState } from 'react'
import { type KeyView, type KeyWithSecret } from '@/core/orders/access'
import { useConnection } from '../link/connection'
import { useBroker } from '../link/LinkProvider'
import { tellProblem } from '../shell/tell'
import { type Column, DataTable } from '../table/DataTable'
import { NewSecret } from './NewSecret'
import css from './Access.module.css'
import { allOr, mayText } from './words'

/** A moment of the wall clock in the trader's own zone; "never" where there is none. */
const wallText = (text: string | undefined): string =>
  text ? DateTime.fromISO(text).toFormat('d LLL yyyy HH:mm') : 'never'

/** Every key of the environment, each to be given another secret or withdrawn. */
export function AllKeys({ own }: { own: string }) {
  const broker = useBroker()
  const queries = useQueryClient()
  const environment = useConnection((s) => s.environment)
  const keys = useQuery({ queryKey: [environment, 'keys'], queryFn: broker.keys }).data
  const [told, setTold] = useState<KeyWithSecret>()
  const [asking, setAsking] = useState<{ keyId: string; what: 'renew' | 'withdraw' }>()
  const act = async () => {
    try {
      if (asking!.what === 'renew') setTold(await broker.renewKey(asking!.keyId))
      else await broker.withdrawKey(asking!.keyId)
      setAsking(undefined)
      await queries.invalidateQueries({ queryKey: [environment, 'keys'] })
    } catch (error) {
      tellProblem(error)
    }
  }
  if (told) return <NewSecret made={told} done={() => setTold(undefined)} />
  if (!keys) return <p className="soft">asking …</p>
  const columns: Column<KeyView>[] = [
    {
      id: 'label',
      header: 'key',
      value: (key) => key.label,
      cell: (key) => (
        <>
          <strong>{key.label}</strong>
          <br />
          <span className="mono soft">{key.keyId}</span>
        </>
      ),
    },
    {
      id: 'may',
      header: 'may',
      value: (key) => (key.forUrl ? `read tables by URL: ${mayText(key.scopes)}` : mayText(key.scopes)),
    },
    { id: 'accounts', header: 'accounts', value: (key) => allOr(key.accounts, 'none') },
    {
      id: 'used',
      header: 'last used',
      value: (key) => key.lastUse,
      cell: (key) => (
        <>
          {wallText(key.lastUse)}
          {key.expires && (
            <>
              <br />
              <span className="soft">ends {wallText(key.expires)}</span>
            </>
          )}
          {key.addresses && (
            <>
              <br />
              <span className="soft">from {key.addresses.join(', ')}</span>
            </>
          )}
        </>
      ),
    },
    {
      id: 'act',
      header: '',
      value: () => undefined,
      cell: (key) =>
        asking?.keyId === key.keyId ? (
          <span className={css.asking}>
            {asking.what === 'renew' ? 'The secret of now ends at once.' : 'It is not taken any more.'}
            <Button size="compact-xs" color="red" onClick={act} data-autofocus>
              {asking.what === 'renew' ? 'Renew' : 'Withdraw'}
            </Button>
            <Button size="compact-xs" variant="default" onClick={() => setAsking(undefined)}>
              Leave it
            </Button>
          </span>
        ) : key.keyId === own ? (
          <span className="soft">in use here</span>
        ) : (
          <span className={css.asking}>
            {!key.forUrl && (
              <Button
                size="compact-xs"
                variant="default"
                aria-label={`Renew the secret of ${key.label}`}
                onClick={() => setAsking({ keyId: key.keyId, what: 'renew' })}
              >
                Renew secret
              </Button>
            )}
            <Button
              size="compact-xs"
              variant="default"
              aria-label={`Withdraw ${key.label}`}
              onClick={() => setAsking({ keyId: key.keyId, what: 'withdraw' })}
            >
              Withdraw
            </Button>
          </span>
        ),
    },
  ]
  return <DataTable label="All keys" wrap rows={keys} columns={columns} idOf={(key) => key.keyId} />
}
