'use client'
import { Button, FileButton, Modal, Text } from '@mantine/core'
import { DateTime } from 'luxon'
import { useState } from 'react'
import { FileFailure } from '@/core/formats/problems'
import { sayFile } from '@/core/formats/say'
import { sayStorageError } from '@/store/db'
import { exportWorkspace, importWorkspace } from '@/store/workspace'
import { download } from './download'
import css from './Shell.module.css'

/** Everything the trader made, as one file, and back. */
export function WorkspacePanel({ opened, onClose }: { opened: boolean; onClose(): void }) {
  const [said, setSaid] = useState<{ text: string; bad: boolean }>()
  const save = async () => {
    try {
      const text = await exportWorkspace()
      download(`fleet-heron-workspace-${DateTime.now().toISODate()}.json`, text, 'application/json')
      setSaid({ text: 'Saved. The file holds no secrets.', bad: false })
    } catch (error) {
      setSaid({ text: sayStorageError(error), bad: true })
    }
  }
  const bring = async (file: File | null) => {
    if (!file) return
    try {
      const done = await importWorkspace(await file.text())
      setSaid({
        text: `Brought back: ${done.scans} scans with ${done.runs} runs, ${done.sets} sets of own data with ${done.securities} securities.`,
        bad: false,
      })
    } catch (error) {
      setSaid({
        text: error instanceof FileFailure ? sayFile(error.problem) : sayStorageError(error),
        bad: true,
      })
    }
  }
  return (
    <Modal opened={opened} onClose={onClose} title="The workspace">
      <Text>
        Scans and their runs, imported bars and settings live in this browser. One file holds all of it,
        without any secret.
      </Text>
      {said && (
        <Text role="status" mt={8} className={said.bad ? 'refusal' : undefined}>
          {said.text}
        </Text>
      )}
      <div className={css.actions}>
        <FileButton onChange={bring} accept="application/json,.json">
          {(props) => (
            <Button variant="default" {...props}>
              Bring one back …
            </Button>
          )}
        </FileButton>
        <Button onClick={save}>Save the workspace</Button>
      </div>
    </Modal>
  )
}
