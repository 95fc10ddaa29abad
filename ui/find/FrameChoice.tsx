'use client'
import { Button, Popover, Switch, TextInput } from '@mantine/core'
import { DateTime } from 'luxon'
import { useState } from 'react'
import { isIntraday, parseTimeframe } from '@/core/market/timeframe'
import { AnyLength } from '../market/AnyLength'
import { useLink } from '../link/useLink'
import { splitFrame } from '../market/frames'
import css from './Find.module.css'
import { NO_RESULT, useFind } from './findStore'

const NAMED: Record<string, string> = { '1 day': 'daily', '1 week': 'weekly', '1 month': 'monthly' }
const USUAL = ['1 month', '1 week', '1 day', '1 hour', '15 min', '5 min']

const asOfText = (date: string): string =>
  `as of ${DateTime.fromISO(date).setLocale('en').toFormat('d LLL yyyy')}`

/** "daily bars, completed": which bars, whether the one still growing is among them, and as of when. */
export function frameText(frame: string, asOfDate?: string): string {
  const { every, soFar } = splitFrame(frame)
  const bars = `${NAMED[every] ?? every.replace(/s$/, '')} bars`
  if (asOfDate) return `${bars} ${asOfText(asOfDate)}`
  return soFar ? `${bars} and the one so far` : bars
}

export function FrameChoice() {
  const [open, setOpen] = useState(false)
  const { frame, asOfDate } = useFind()
  const { every, soFar } = splitFrame(frame)
  const today = useLink((s) => s.clock?.now.slice(0, 10))
  const take = (change: { every?: string; soFar?: boolean; asOfDate?: string | undefined }) => {
    const next = { every, soFar, asOfDate, ...change }
    useFind.setState({
      frame: `${next.every}${next.soFar && !next.asOfDate ? ' so far' : ''}`,
      asOfDate: next.asOfDate,
      ...NO_RESULT,
    })
  }
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-start" trapFocus>
      <Popover.Target>
        <button
          type="button"
          className="blank"
          aria-label={`Bars: ${frameText(frame, asOfDate)}`}
          onClick={() => setOpen(!open)}
        >
          {frameText(frame, asOfDate)}
        </button>
      </Popover.Target>
      <Popover.Dropdown w={330}>
        <div className={css.frames}>
          {USUAL.map((one) => (
            <Button
              key={one}
              variant={one === every ? 'filled' : 'default'}
              size="xs"
              aria-pressed={one === every}
              onClick={() => take({ every: one })}
            >
              {NAMED[one] ?? one}
            </Button>
          ))}
        </div>
        <AnyLength label="Any other length" onUse={(next) => take({ every: next })} />
        <Switch
          mt={12}
          label="with the bar that is still growing"
          description={
            isIntraday(parseTimeframe(every) ?? { count: 1, unit: 'day' })
              ? 'Else only bars that are complete.'
              : 'Today so far. Else only sessions that are over.'
          }
          checked={soFar}
          disabled={asOfDate !== undefined}
          onChange={(e) => take({ soFar: e.currentTarget.checked })}
        />
        <AsOfForm
          last={today}
          onTake={(date) => {
            take({ asOfDate: date })
            setOpen(false)
          }}
        />
      </Popover.Dropdown>
    </Popover>
  )
}

/** A day at whose close all is looked at; none for what is there now. */
function AsOfForm({ last, onTake }: { last?: string; onTake(date: string | undefined): void }) {
  const { asOfDate } = useFind()
  const [date, setDate] = useState(asOfDate ?? '')
  const ahead = last !== undefined && date > last
  return (
    <form
      className={css.row}
      style={{ marginTop: 12 }}
      onSubmit={(e) => {
        e.preventDefault()
        if (!ahead) onTake(date === '' ? undefined : date)
      }}
    >
      <TextInput
        type="date"
        label="As of the close of a past day"
        value={date}
        max={last}
        onChange={(e) => setDate(e.currentTarget.value)}
        error={ahead ? `That is still to come; the market is at ${last}.` : undefined}
        style={{ flex: 1 }}
      />
      <Button type="submit" variant="default">
        {date === '' ? 'Now' : 'Go'}
      </Button>
    </form>
  )
}

/** Of own data the bars are what they are: all of them, or those up to a past day. */
export function OwnAsOfChoice() {
  const [open, setOpen] = useState(false)
  const { asOfDate } = useFind()
  const said = asOfDate ? asOfText(asOfDate) : 'to the last'
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-start" trapFocus>
      <Popover.Target>
        <button
          type="button"
          className="blank"
          aria-label={`Its bars: ${said}`}
          onClick={() => setOpen(!open)}
        >
          {said}
        </button>
      </Popover.Target>
      <Popover.Dropdown w={330}>
        <AsOfForm
          onTake={(date) => {
            useFind.setState({ asOfDate: date, ...NO_RESULT })
            setOpen(false)
          }}
        />
      </Popover.Dropdown>
    </Popover>
  )
}
