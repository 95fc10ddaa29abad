'use client'
import { Button, Popover } from '@mantine/core'
import { useState } from 'react'
import { type Timeframe } from '@/core/market/timeframe'
import { checkMeasure, print } from '@/core/rules'
import css from './Find.module.css'
import { useFind } from './findStore'
import { MeasureInput } from './MeasureInput'

/** Measures that are shown beside those of the rule. */
export function ExtraColumns({ measures, every }: { measures: string[]; every: Timeframe }) {
  const [open, setOpen] = useState(false)
  const [text, setText] = useState('')
  const checked = checkMeasure(text, every)
  const add = () => {
    if (!checked.type) return
    useFind.setState({ measures: [...new Set([...measures, print(checked.tree)])] })
    setText('')
    setOpen(false)
  }
  return (
    <span className={css.columns}>
      {measures.map((measure) => (
        <span key={measure} className={css.chip}>
          {measure}
          <button
            type="button"
            aria-label={`Leave out the column ${measure}`}
            onClick={() => useFind.setState({ measures: measures.filter((m) => m !== measure) })}
          >
            ×
          </button>
        </span>
      ))}
      <Popover opened={open} onChange={setOpen} position="bottom-end" trapFocus>
        <Popover.Target>
          <Button variant="default" onClick={() => setOpen(!open)}>
            + Column
          </Button>
        </Popover.Target>
        <Popover.Dropdown w={320}>
          <form
            onSubmit={(e) => {
              e.preventDefault()
              add()
            }}
          >
            <MeasureInput
              label="Show a measure"
              hint="rsi(14), or a word such as average"
              every={every}
              value={text}
              onChange={setText}
              onEnter={add}
            />
            <p className="soft">Shown from the next scan on.</p>
            <Button type="submit" mt={8} disabled={!checked.type}>
              Add the column
            </Button>
          </form>
        </Popover.Dropdown>
      </Popover>
    </span>
  )
}
