'use client'
import { Button, Group, Menu, useMantineColorScheme } from '@mantine/core'
import { lazy, Suspense, useEffect, useState } from 'react'
import { useConnection } from '../link/connection'
import css from './Shell.module.css'
import { WorkspacePanel } from './WorkspacePanel'

// They come when they are asked for.
const AccountsPanel = lazy(() =>
  import('../access/AccountsPanel').then((m) => ({ default: m.AccountsPanel })),
)
const WorldsPanel = lazy(() => import('../access/WorldsPanel').then((m) => ({ default: m.WorldsPanel })))
const KeysPanel = lazy(() => import('../access/KeysPanel').then((m) => ({ default: m.KeysPanel })))

/** Which environment and account the page is about, and what belongs to it: accounts, keys, workspace, day and night. */
export function EnvironmentControl() {
  const [panel, setPanel] = useState<'keys' | 'accounts' | 'workspace' | 'worlds'>()
  const { colorScheme, setColorScheme } = useMantineColorScheme()
  const { environment, name: account } = useConnection()
  const isLive = environment === 'live'
  const word = isLive ? 'LIVE stand-in' : 'Paper'
  useEffect(() => {
    document.documentElement.dataset.environment = environment
  }, [environment])
  return (
    <>
      <Menu position="bottom-start">
        <Menu.Target>
          <button
            type="button"
            className={isLive ? css.live : 'blank'}
            style={{ fontWeight: 600 }}
            aria-label={`${word} environment${account ? `, account ${account}` : ''}: accounts, keys, workspace, theme`}
          >
            {word}
            {account && ` ${account}`}
          </button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Label>
            {isLive
              ? 'LIVE, in the stand-in: treated as real money, none is'
              : 'Paper: no real money is at stake here'}
          </Menu.Label>
          <Menu.Item onClick={() => setPanel('accounts')}>Accounts …</Menu.Item>
          <Menu.Item onClick={() => setPanel('keys')}>Keys …</Menu.Item>
          {!isLive && (
            <Menu.Item onClick={() => setPanel('worlds')}>Rehearsals, worlds set aside …</Menu.Item>
          )}
          <Menu.Item onClick={() => setPanel('workspace')}>Save or bring back the workspace …</Menu.Item>
          <Menu.Divider />
          <Group gap={4} px={10} py={4}>
            {(['auto', 'light', 'dark'] as const).map((scheme) => (
              <Button
                key={scheme}
                variant={colorScheme === scheme ? 'filled' : 'default'}
                onClick={() => setColorScheme(scheme)}
              >
                {{ auto: 'As the system', light: 'Day', dark: 'Night' }[scheme]}
              </Button>
            ))}
          </Group>
        </Menu.Dropdown>
      </Menu>
      <Suspense>
        {panel === 'accounts' && <AccountsPanel opened onClose={() => setPanel(undefined)} />}
        {panel === 'worlds' && <WorldsPanel opened onClose={() => setPanel(undefined)} />}
        {panel === 'keys' && <KeysPanel opened onClose={() => setPanel(undefined)} />}
      </Suspense>
      <WorkspacePanel opened={panel === 'workspace'} onClose={() => setPanel(undefined)} />
    </>
  )
}
