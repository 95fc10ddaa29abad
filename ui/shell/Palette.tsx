'use client'
import { Kbd, Modal, Table, useMantineColorScheme } from '@mantine/core'
import { useHotkeys } from '@mantine/hooks'
import { Spotlight, spotlight } from '@mantine/spotlight'
import { useRouter } from 'next/navigation'
import { useMemo, useState } from 'react'
import { useSecurities } from '../link/LinkProvider'
import { SECTIONS } from './sections'
import { useKeys } from './useKeys'

const SHORTCUTS: [string, string][] = [
  ['/', 'search securities and commands'],
  ['?', 'this sheet'],
  ...SECTIONS.map(({ key, name, does }): [string, string] => [key, `${name}: ${does}`]),
  ['Ctrl + Enter', 'in the rule: scan · in the ticket: send'],
  ['↑ ↓', 'move in a table'],
  ['Enter', 'open what is marked'],
  ['o', 'order ticket for the security in view'],
  ['Space', 'mark a row; with Shift and arrows a run of rows'],
  ['g', 'on a chart: go to a day'],
  ['Esc', 'close what is open'],
]

/** Search for securities and commands, section jumps, and the sheet of shortcuts. */
export function Palette() {
  const router = useRouter()
  const securities = useSecurities().data
  const { toggleColorScheme } = useMantineColorScheme()
  const [sheet, setSheet] = useState(false)
  useKeys([
    ['/', () => spotlight.open()],
    ['shift+?', () => setSheet(true)],
    ['?', () => setSheet(true)],
    ...SECTIONS.map(({ key, path }): [string, () => void] => [key, () => router.push(path)]),
  ])
  // With Ctrl it cannot be meant as text.
  useHotkeys([['mod+K', () => spotlight.open()]], [], true)
  const actions = useMemo(
    () => [
      {
        group: 'Securities',
        actions: (securities ?? []).map((s) => ({
          id: s.symbol,
          label: s.symbol,
          description: `${s.name} · ${s.sector}`,
          keywords: [s.name],
          onClick: () => router.push(`/look/${s.symbol}`),
        })),
      },
      {
        group: 'Commands',
        actions: [
          ...SECTIONS.map(({ name, path, does }) => ({
            id: path,
            label: name,
            description: does,
            onClick: () => router.push(path),
          })),
          {
            id: 'data',
            label: 'Data',
            description: 'how fresh the bars are, lists, your own bars and company figures',
            onClick: () => router.push('/data'),
          },
          { id: 'night', label: 'Day or night', description: 'switch the theme', onClick: toggleColorScheme },
          {
            id: 'keys',
            label: 'Shortcuts',
            description: 'what the keyboard does',
            onClick: () => setSheet(true),
          },
        ],
      },
    ],
    [securities, router, toggleColorScheme],
  )
  return (
    <>
      <Spotlight
        actions={actions}
        shortcut={null}
        limit={9}
        nothingFound="Nothing of that name"
        highlightQuery
        searchProps={{ placeholder: 'A symbol, a company, a command', 'aria-label': 'Search' }}
        transitionProps={{ duration: 0 }}
        overlayProps={{ blur: 0, backgroundOpacity: 0.35 }}
      />
      <Modal opened={sheet} onClose={() => setSheet(false)} title="What the keyboard does">
        <Table>
          <Table.Tbody>
            {SHORTCUTS.map(([key, does]) => (
              <Table.Tr key={key}>
                <Table.Td w={120}>
                  <Kbd>{key}</Kbd>
                </Table.Td>
                <Table.Td>{does}</Table.Td>
              </Table.Tr>
            ))}
          </Table.Tbody>
        </Table>
      </Modal>
    </>
  )
}
