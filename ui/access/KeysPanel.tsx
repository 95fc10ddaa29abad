'use client'
import { Modal, Tabs, Text } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { type WhoAmI } from '@/core/orders/access'
import { useConnection } from '../link/connection'
import { useBroker } from '../link/LinkProvider'
import { AllKeys } from './AllKeys'
import { MakeKey } from './MakeKey'
import { TableUrl } from './TableUrl'
import { UseKey } from './UseKey'
import { mayText } from './words'

/** Who the page is to the broker, which keys there are, and how another is made or taken up. */
export function KeysPanel({ opened, onClose }: { opened: boolean; onClose(): void }) {
  const broker = useBroker()
  const { environment, isDemo } = useConnection()
  const who = useQuery({
    queryKey: [environment, 'whoami', broker.access.keyId],
    queryFn: broker.whoami,
    enabled: opened,
  })
  const manages = who.data?.scopes.includes('manage-keys') ?? false
  return (
    <Modal
      opened={opened}
      onClose={onClose}
      title={`Keys for the ${environment} environment`}
      size={820}
      keepMounted={false}
    >
      <InUse who={who.data} isDemo={isDemo} keyId={broker.access.keyId} />
      <Tabs defaultValue="all" mt={12} keepMounted={false}>
        <Tabs.List>
          <Tabs.Tab value="all">All keys</Tabs.Tab>
          <Tabs.Tab value="make">Make a key</Tabs.Tab>
          <Tabs.Tab value="url">A table by URL</Tabs.Tab>
          <Tabs.Tab value="use">Use another key here</Tabs.Tab>
        </Tabs.List>
        <Tabs.Panel value="all" pt={10}>
          {manages ? <AllKeys own={who.data!.key.keyId} /> : <NoRight who={who.data} to="be shown them" />}
        </Tabs.Panel>
        <Tabs.Panel value="make" pt={10}>
          {manages ? <MakeKey who={who.data!} /> : <NoRight who={who.data} to="make one" />}
        </Tabs.Panel>
        <Tabs.Panel value="url" pt={10}>
          {manages ? <TableUrl who={who.data!} /> : <NoRight who={who.data} to="make such a URL" />}
        </Tabs.Panel>
        <Tabs.Panel value="use" pt={4}>
          <UseKey />
        </Tabs.Panel>
      </Tabs>
    </Modal>
  )
}

function InUse({ who, isDemo, keyId }: { who?: WhoAmI; isDemo: boolean; keyId?: string }) {
  return (
    <>
      <Text>
        In use: <strong>{isDemo ? 'the key that the demo made' : keyId}</strong>
        {isDemo
          ? '. Its secret stays on this machine’s server and is never in this page.'
          : '. Its secret is in memory until this page is closed.'}
      </Text>
      {who && (
        <Text className="soft">
          It may {mayText(who.scopes)}; it speaks for {who.accounts.join(', ') || 'no account'} and sees
          prices of{' '}
          {Object.keys(who.rights)
            .filter((mic) => who.rights[mic] === 'real-time')
            .join(', ') || 'no venue'}
          .
        </Text>
      )}
    </>
  )
}

const NoRight = ({ who, to }: { who?: WhoAmI; to: string }) => (
  <p className="soft">
    {who
      ? `The key ${who.key.keyId} may not manage keys; use one that may to ${to}.`
      : 'Asking the broker who this key is …'}
  </p>
)
