'use client'
import { type KeyboardEvent, type PointerEvent, useEffect, useMemo, useRef, useState } from 'react'
import css from './YearRail.module.css'
import { type Notch, type Ruler, rulerNames, thinnedNotches } from './ruler'

const HEIGHT = 46
/** Pixels between notches of one kind. */
const APART = 3
/** Pixels that a name needs. */
const NAME = 62

interface Props {
  ruler: Ruler
  zone: string
  /** The part in view, in places of the ruler. */
  from: number
  to: number
  notches: readonly Notch[]
  /** Shortest part that may be in view. */
  least: number
  onView(from: number, to: number): void
  sayPlace(place: number): string
}

type Grip = 'from' | 'whole' | 'to'

/**
 * The whole history as a ruler, notched where something happened; the part in view is a drawn-out length that is moved
 * and stretched by hand, or by the arrow keys.
 */
export function YearRail({ ruler, zone, from, to, notches, least, onView, sayPlace }: Props) {
  const host = useRef<HTMLDivElement>(null)
  const [width, setWidth] = useState(800)
  useEffect(() => {
    const watch = new ResizeObserver(([entry]) => setWidth(Math.max(100, entry.contentRect.width)))
    watch.observe(host.current!)
    return () => watch.disconnect()
  }, [])
  const x = (place: number) => (width * Math.max(0, Math.min(ruler.units, place))) / ruler.units
  const names = useMemo(
    () =>
      rulerNames(ruler, zone, Math.max(2, Math.floor(width / NAME))).filter(
        // One that would be cut at the right end is left out.
        ({ place, text }) => width * (1 - place / ruler.units) > 7 * text.length,
      ),
    [ruler, zone, width],
  )
  const shown = useMemo(
    () => thinnedNotches(notches, (APART * ruler.units) / width),
    [notches, ruler.units, width],
  )
  const length = to - from
  const move = (grip: Grip, by: number) => {
    if (grip === 'whole') {
      const start = Math.max(0, Math.min(ruler.units - length, from + by))
      onView(start, start + length)
    } else if (grip === 'from') onView(Math.max(0, Math.min(to - least, from + by)), to)
    else onView(from, Math.max(from + least, Math.min(ruler.units, to + by)))
  }
  const grabbed = useRef<{ grip: Grip; x: number; from: number; to: number }>(undefined)
  const grab = (grip: Grip) => (event: PointerEvent<HTMLElement>) => {
    event.currentTarget.setPointerCapture(event.pointerId)
    grabbed.current = { grip, x: event.clientX, from, to }
    event.stopPropagation()
  }
  const drag = (event: PointerEvent) => {
    const grip = grabbed.current
    if (!grip) return
    const by = ((event.clientX - grip.x) * ruler.units) / width
    if (grip.grip === 'whole') {
      const start = Math.max(0, Math.min(ruler.units - (grip.to - grip.from), grip.from + by))
      onView(start, start + grip.to - grip.from)
    } else if (grip.grip === 'from') onView(Math.max(0, Math.min(grip.to - least, grip.from + by)), grip.to)
    else onView(grip.from, Math.max(grip.from + least, Math.min(ruler.units, grip.to + by)))
  }
  const drop = () => (grabbed.current = undefined)
  const onKeyDown = (grip: Grip) => (event: KeyboardEvent) => {
    const step = Math.max(length / 10, ruler.units / 400)
    const by = { ArrowLeft: -step, ArrowRight: step, PageUp: -length, PageDown: length }[event.key]
    const end = { Home: -ruler.units, End: ruler.units }[event.key]
    if (by === undefined && end === undefined) return
    event.preventDefault()
    event.stopPropagation()
    move(grip, by ?? end!)
  }
  /** A press beside the length brings it there. */
  const jump = (event: PointerEvent<HTMLDivElement>) => {
    const place = ((event.clientX - event.currentTarget.getBoundingClientRect().left) * ruler.units) / width
    const start = Math.max(0, Math.min(ruler.units - length, place - length / 2))
    onView(start, start + length)
  }
  const handle = (grip: Grip, place: number, label: string) => ({
    role: 'slider',
    tabIndex: 0,
    'aria-label': label,
    'aria-valuemin': 0,
    'aria-valuemax': Math.round(ruler.units),
    'aria-valuenow': Math.round(place),
    'aria-valuetext': sayPlace(place),
    onPointerDown: grab(grip),
    onPointerMove: drag,
    onPointerUp: drop,
    onPointerCancel: drop,
    onKeyDown: onKeyDown(grip),
  })
  return (
    <div
      ref={host}
      className={css.rail}
      style={{ height: HEIGHT }}
      role="group"
      aria-label="Year rail"
      onPointerDown={jump}
    >
      <svg width={width} height={HEIGHT} aria-hidden>
        <line x1={0} x2={width} y1={30} y2={30} className={css.line} />
        {/* What is loaded, where the market has more than that. */}
        <line x1={x(ruler.loaded[0])} x2={x(ruler.loaded[1])} y1={30} y2={30} className={css.loaded} />
        {names.map(({ place, text }) => (
          <g key={place}>
            <line x1={x(place)} x2={x(place)} y1={26} y2={34} className={css.line} />
            <text x={x(place) + 3} y={43}>
              {text}
            </text>
          </g>
        ))}
        {shown.map((notch) => (
          <path
            key={`${notch.kind} ${notch.place} ${notch.filled}`}
            d={SHAPES[notch.kind]}
            transform={`translate(${x(notch.place).toFixed(1)} 0)`}
            className={css[notch.kind]}
            data-filled={notch.filled || undefined}
          />
        ))}
      </svg>
      <div
        className={css.length}
        style={{ left: x(from), width: Math.max(3, x(to) - x(from)) }}
        {...handle('whole', from, 'Part in view')}
      />
      <div className={css.end} style={{ left: x(from) }} {...handle('from', from, 'First bar in view')} />
      <div
        className={css.end}
        data-to
        style={{ left: Math.max(x(to), x(from) + 3) }}
        {...handle('to', to, 'Last bar in view')}
      />
    </div>
  )
}

/** The same shapes as on the chart: chevrons for rules, triangles for fills, diamonds for what companies do. */
const SHAPES: Record<Notch['kind'], string> = {
  for: 'M-3.5 27 L0 22 L3.5 27',
  against: 'M-3.5 6 L0 11 L3.5 6',
  fill: 'M-3.5 19 L0 13 L3.5 19 Z',
  event: 'M-3 13 L0 10 L3 13 L0 16 Z',
  gap: 'M0 28 L0 32',
}
