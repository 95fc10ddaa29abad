import { Button, CopyButton, Text } from '@mantine/core'
import { type KeyWithSecret } from '@/core/orders/access'
import { download } from '../shell/download'
import css from '../shell/Shell.module.css'

/** A secret, told this once: to be copied, or saved as one file that clients read. */
export function NewSecret({ made, done }: { made: KeyWithSecret; done(): void }) {
  const { keyId, secret, environment, label } = made
  const file = `${JSON.stringify({ keyId, secret, environment }, null, 2)}\n`
  return (
    <section aria-label="The new secret" className={css.field}>
      <Text>
        <strong>{label}</strong> is ready. Its secret is told this once: it is not kept here, and the broker
        keeps only what it can be checked against.
      </Text>
      <dl className="mono" style={{ margin: 0, overflowWrap: 'anywhere' }}>
        <dt className="soft">key id</dt>
        <dd>{keyId}</dd>
        <dt className="soft">secret</dt>
        <dd data-testid="secret">{secret}</dd>
      </dl>
      <div className={css.actions}>
        <CopyButton value={secret}>
          {({ copied, copy }) => (
            <Button variant="default" onClick={copy}>
              {copied ? 'Copied' : 'Copy the secret'}
            </Button>
          )}
        </CopyButton>
        <Button onClick={() => download(`${keyId}.json`, file, 'application/json')}>
          Save as a file for clients
        </Button>
        <Button variant="default" onClick={done}>
          Done
        </Button>
      </div>
    </section>
  )
}
