'use client'
import { Popover } from '@mantine/core'
import { useState } from 'react'
import { AnyLength } from '../market/AnyLength'

/** Any other length of bars than those that stand ready. */
export function OtherFrame({ every, onChoose }: { every?: string; onChoose(every: string): void }) {
  const [open, setOpen] = useState(false)
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-start" trapFocus>
      <Popover.Target>
        <button
          type="button"
          className="blank"
          aria-label="Bars of another length"
          onClick={() => setOpen(!open)}
        >
          {every ? every.replace(/^(?!1 )(\d+ (?:hour|day|week|month))$/, '$1s') : 'other'}
        </button>
      </Popover.Target>
      <Popover.Dropdown w={300}>
        <AnyLength
          label="Bars of"
          onUse={(chosen) => {
            onChoose(chosen)
            setOpen(false)
          }}
        />
      </Popover.Dropdown>
    </Popover>
  )
}
