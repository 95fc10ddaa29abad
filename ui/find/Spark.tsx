const WIDTH = 78
const HEIGHT = 18

/** A small line of the last closes; says its direction in words for those who hear the page. */
export function Spark({ values }: { values: readonly number[] }) {
  const known = values.filter((v) => Number.isFinite(v))
  if (known.length < 2) return null
  const [low, high] = [Math.min(...known), Math.max(...known)]
  const x = (i: number) => (i * WIDTH) / (values.length - 1)
  const y = (v: number) => 1 + (HEIGHT - 2) * (1 - (v - low) / (high - low || 1))
  const path = values
    .map((v, i) =>
      Number.isFinite(v)
        ? `${Number.isFinite(values[i - 1] ?? NaN) ? 'L' : 'M'}${x(i).toFixed(1)} ${y(v).toFixed(1)}`
        : '',
    )
    .join('')
  return (
    <svg
      width={WIDTH}
      height={HEIGHT}
      role="img"
      aria-label={known.at(-1)! >= known[0] ? 'higher than at its start' : 'lower than at its start'}
    >
      <path d={path} fill="none" stroke="var(--accent)" strokeWidth={1.2} />
    </svg>
  )
}
