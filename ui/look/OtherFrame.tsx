'use client'
import { Button, Popover, TextInput } from '@mantine/core'
import { useState } from 'react'
import { parseTimeframe, timeframeText } from '@/core/market/timeframe'
import css from './Look.module.css'

/** Any other length of bars than those that stand ready: a whole number of minutes, hours, days, weeks or months. */
export function OtherFrame({ every, onChoose }: { every?: string; onChoose(every: string): void }) {
  const [open, setOpen] = useState(false)
  const [text, setText] = useState('')
  const asked = parseTimeframe(text)
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-start" trapFocus>
      <Popover.Target>
        <button
          type="button"
          className="blank"
          aria-label="Bars of another length"
          onClick={() => setOpen(!open)}
        >
          {every ?? 'other'}
        </button>
      </Popover.Target>
      <Popover.Dropdown w={300}>
        <form
          className={css.row}
          onSubmit={(e) => {
            e.preventDefault()
            if (!asked) return
            onChoose(timeframeText(asked))
            setOpen(false)
          }}
        >
          <TextInput
            label="Bars of"
            placeholder="2 hours, 3 days, 45 min"
            value={text}
            onChange={(e) => setText(e.currentTarget.value)}
            error={
              text.trim() !== '' && !asked
                ? 'A whole number of minutes, hours, days, weeks or months'
                : undefined
            }
            style={{ flex: 1 }}
            data-autofocus
          />
          <Button type="submit" disabled={!asked} style={{ alignSelf: 'end' }}>
            Use
          </Button>
        </form>
      </Popover.Dropdown>
    </Popover>
  )
}
