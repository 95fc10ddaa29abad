'use client'
import { Button, Group, Menu, useMantineColorScheme } from '@mantine/core'
import { useState } from 'react'
import { KeysPanel } from './KeysPanel'
import { WorkspacePanel } from './WorkspacePanel'

/** "Paper": which environment this is, and what belongs to it: keys, the workspace, day and night. */
export function EnvironmentControl() {
  const [panel, setPanel] = useState<'keys' | 'workspace'>()
  const { colorScheme, setColorScheme } = useMantineColorScheme()
  return (
    <>
      <Menu position="bottom-start">
        <Menu.Target>
          <button
            type="button"
            className="blank"
            style={{ fontWeight: 600 }}
            aria-label="Paper environment: keys, workspace, theme"
          >
            Paper
          </button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Label>Paper: no real money is at stake here</Menu.Label>
          <Menu.Item onClick={() => setPanel('keys')}>Keys …</Menu.Item>
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
      <KeysPanel opened={panel === 'keys'} onClose={() => setPanel(undefined)} />
      <WorkspacePanel opened={panel === 'workspace'} onClose={() => setPanel(undefined)} />
    </>
  )
}
