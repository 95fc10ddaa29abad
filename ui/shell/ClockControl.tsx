'use client'
import { Button, Group, Popover, SegmentedControl, Stack, Text } from '@mantine/core'
import { useState } from 'react'
import { type SessionView } from '@/core/market/wire'
import { useBroker } from '../link/LinkProvider'
import { useLink } from '../link/useLink'
import { clockText, dateText, spanText } from './marketTime'
import { tell, tellProblem } from './tell'

/** Pace of the market, said by how long a whole session takes. */
const PACES = [
  { value: '23400', label: 'whole' },
  { value: '2400', label: '40 min' },
  { value: '240', label: '4 min' },
  { value: '25', label: '25 s' },
]

/** "Brackwater is open, 10:42, closes in 5 h 18 min"; opens the controls of the market's time. */
export function ClockControl({ session }: { session: SessionView | undefined }) {
  const clock = useLink((s) => s.clock)
  const [open, setOpen] = useState(false)
  if (!session || !clock) return <span className="soft">asking the venue for its session</span>
  const name = session.name.split(' ')[0]
  const until = (moment: string) => spanText(Date.parse(moment) - Date.parse(clock.now))
  const text =
    clock.session === 'Open'
      ? `${name} is open, ${clockText(clock.now)}, closes in ${until(session.closes)}`
      : `${name} is closed, ${dateText(clock.now)} ${clockText(clock.now)}, opens in ${until(session.opens)}`
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-start" trapFocus>
      <Popover.Target>
        <button type="button" className="blank" onClick={() => setOpen(!open)} aria-expanded={open}>
          {text}
        </button>
      </Popover.Target>
      <Popover.Dropdown>
        <ClockPanel session={session} />
      </Popover.Dropdown>
    </Popover>
  )
}

function ClockPanel({ session }: { session: SessionView }) {
  const broker = useBroker()
  const clock = useLink((s) => s.clock)!
  const change = (what: Parameters<typeof broker.setClock>[0], told?: string) =>
    broker.setClock(what).then(() => told && tell(told), tellProblem)
  const nearest = PACES.reduce((a, b) =>
    Math.abs(Math.log(Number(b.value) / clock.sessionTakes)) <
    Math.abs(Math.log(Number(a.value) / clock.sessionTakes))
      ? b
      : a,
  )
  return (
    <Stack gap={10} w={330}>
      <Text size="sm">
        The stand-in market’s own time: {dateText(clock.now)} {clockText(clock.now, true)}, session{' '}
        {clockText(session.opens)} to {clockText(session.closes)} in {session.zone}.
      </Text>
      <div>
        <h3>A whole session takes</h3>
        <SegmentedControl
          size="xs"
          mt={4}
          fullWidth
          data={PACES}
          value={nearest.value}
          onChange={(value) => change({ sessionTakes: Number(value) })}
          aria-label="How long a session takes"
        />
      </div>
      <Group gap={6}>
        <Button variant="default" onClick={() => change({ running: !clock.running })}>
          {clock.running ? 'Pause' : 'Run'}
        </Button>
        <Button variant="default" onClick={() => change({ step: 60 })}>
          Step 1 min
        </Button>
        <Button
          variant="default"
          onClick={() => change({ jumpTo: 'open' }, 'The market moved on to the next open.')}
        >
          Jump to next open
        </Button>
      </Group>
      <Text size="xs" c="dimmed">
        Time goes forward only. What happens on the way, fills among it, happens.
      </Text>
    </Stack>
  )
}
