'use client'
import { Button, Popover, TextInput } from '@mantine/core'
import { useState } from 'react'

interface Props {
  button: string
  size?: 'xs'
  disabled?: boolean
  label: string
  /** The name that stands there when it opens. */
  suggested?: string
  /** What is said under the name, and on the button that saves, for a name as it is typed. */
  about(name: string): { description?: string; save: string }
  /** Saves under a name; the question closes when it is done. Rejects where it could not. */
  onSave(name: string): Promise<void>
}

/** A button that asks for a name and saves under it. */
export function NameAndSave({ button, size, disabled, label, suggested, about, onSave }: Props) {
  const [open, setOpen] = useState(false)
  const [text, setText] = useState('')
  const name = text.trim()
  const { description, save } = about(name)
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-end" trapFocus>
      <Popover.Target>
        <Button
          variant="default"
          size={size}
          disabled={disabled}
          onClick={() => {
            setText(suggested ?? '')
            setOpen(!open)
          }}
        >
          {button}
        </Button>
      </Popover.Target>
      <Popover.Dropdown w={300}>
        <form
          onSubmit={(e) => {
            e.preventDefault()
            if (name !== '')
              void onSave(name).then(
                () => setOpen(false),
                () => undefined,
              )
          }}
        >
          <TextInput
            label={label}
            description={description}
            value={text}
            maxLength={80}
            onChange={(e) => setText(e.currentTarget.value)}
            data-autofocus
          />
          <Button type="submit" mt={8} disabled={name === ''}>
            {save}
          </Button>
        </form>
      </Popover.Dropdown>
    </Popover>
  )
}
