'use client'
import { Button, TextInput } from '@mantine/core'
import { useState } from 'react'
import { parseTimeframe, timeframeText } from '@/core/market/timeframe'

/** Asks for bars of any length: a whole number of minutes, hours, days, weeks or months. */
export function AnyLength({ label, onUse }: { label: string; onUse(every: string): void }) {
  const [text, setText] = useState('')
  const asked = parseTimeframe(text)
  return (
    <form
      style={{ display: 'flex', alignItems: 'flex-end', gap: 8 }}
      onSubmit={(e) => {
        e.preventDefault()
        if (asked) onUse(timeframeText(asked))
      }}
    >
      <TextInput
        label={label}
        placeholder="2 hours, 3 days, 45 min"
        value={text}
        onChange={(e) => setText(e.currentTarget.value)}
        error={
          text.trim() !== '' && !asked ? 'A whole number of minutes, hours, days, weeks or months' : undefined
        }
        style={{ flex: 1 }}
      />
      <Button type="submit" variant="default" disabled={!asked}>
        Use
      </Button>
    </form>
  )
}
