'use client'
import { Button, Menu, Popover, TextInput } from '@mantine/core'
import { useState } from 'react'
import { type Adjustment } from '@/core/market/adjust'
import { AnyLength } from '../market/AnyLength'
import { useKeys } from '../shell/useKeys'
import css from './Look.module.css'

const PRICES: Record<Adjustment, string> = {
  'over-splits': 'adjusted for splits',
  'over-splits-and-dividends': 'adjusted for splits and dividends',
  'as-traded': 'as traded',
}

/** Which bars, what stands beside them, how prices are made comparable, and which day: a sentence to fill in. */
export function LookSentence({
  frames,
  every,
  setEvery,
  besides,
  setBesides,
  prices,
  setPrices,
  first,
  last,
  goTo,
}: {
  frames: readonly string[]
  every: string
  setEvery(every: string): void
  besides: readonly string[]
  setBesides(besides: string[]): void
  prices: Adjustment
  /** None for own data, which is as it was brought. */
  setPrices?(prices: Adjustment): void
  /** Dates between which a day can be gone to. */
  first: string
  last: string
  goTo(date: string): void
}) {
  return (
    <p className={css.sentence}>
      <BarsChoice frames={frames} every={every} setEvery={setEvery} /> bars,{' '}
      <Menu position="bottom-start" closeOnItemClick={false}>
        <Menu.Target>
          <button
            type="button"
            className="blank"
            aria-label={`Beside it: ${besides.join(' and ') || 'nothing'}`}
          >
            {besides.length === 0 ? 'nothing beside' : `${besides.join(' and ')} beside`}
          </button>
        </Menu.Target>
        <Menu.Dropdown>
          {frames.map((frame) => (
            <Menu.Item
              key={frame}
              onClick={() =>
                setBesides(
                  besides.includes(frame)
                    ? besides.filter((f) => f !== frame)
                    : [...besides, frame].slice(-3),
                )
              }
            >
              {besides.includes(frame) ? `without ${frame}` : frame}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
      {setPrices && (
        <>
          ,{' '}
          <Menu position="bottom-start">
            <Menu.Target>
              <button type="button" className="blank" aria-label={`Prices: ${PRICES[prices]}`}>
                {PRICES[prices]}
              </button>
            </Menu.Target>
            <Menu.Dropdown>
              {(Object.keys(PRICES) as Adjustment[]).map((how) => (
                <Menu.Item key={how} onClick={() => setPrices(how)}>
                  {PRICES[how]}
                </Menu.Item>
              ))}
            </Menu.Dropdown>
          </Menu>
        </>
      )}
      ; <DayChoice first={first} last={last} goTo={goTo} />
    </p>
  )
}

function BarsChoice({
  frames,
  every,
  setEvery,
}: {
  frames: readonly string[]
  every: string
  setEvery(every: string): void
}) {
  const [open, setOpen] = useState(false)
  const choose = (next: string) => {
    setEvery(next)
    setOpen(false)
  }
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-start" trapFocus>
      <Popover.Target>
        <button type="button" className="blank" aria-label={`Bars: ${every}`} onClick={() => setOpen(!open)}>
          {every}
        </button>
      </Popover.Target>
      <Popover.Dropdown w={300}>
        <div className={css.ready}>
          {frames.map((frame) => (
            <Button
              key={frame}
              size="xs"
              variant={frame === every ? 'filled' : 'default'}
              aria-pressed={frame === every}
              onClick={() => choose(frame)}
            >
              {frame}
            </Button>
          ))}
        </div>
        <AnyLength label="Any other length" onUse={choose} />
      </Popover.Dropdown>
    </Popover>
  )
}

/** Goes to a day of the history; `g` opens it. */
function DayChoice({ first, last, goTo }: { first: string; last: string; goTo(date: string): void }) {
  const [open, setOpen] = useState(false)
  const [date, setDate] = useState('')
  useKeys([['g', () => setOpen(true)]])
  const outside = date !== '' && (date < first || date > last)
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-start" trapFocus>
      <Popover.Target>
        <button type="button" className="blank" onClick={() => setOpen(!open)}>
          go to a day
        </button>
      </Popover.Target>
      <Popover.Dropdown w={280}>
        <form
          className={css.row}
          style={{ marginTop: 0 }}
          onSubmit={(e) => {
            e.preventDefault()
            if (date === '' || outside) return
            goTo(date)
            setOpen(false)
          }}
        >
          <TextInput
            type="date"
            label="Day"
            value={date}
            min={first}
            max={last}
            onChange={(e) => setDate(e.currentTarget.value)}
            error={outside ? `There are bars from ${first} to ${last}.` : undefined}
            style={{ flex: 1 }}
            data-autofocus
          />
          <Button type="submit" disabled={date === ''}>
            Go
          </Button>
        </form>
      </Popover.Dropdown>
    </Popover>
  )
}
