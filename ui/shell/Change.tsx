import { decimal } from '@/core/market/money'

/** A change of price or profit: ▲ filled and blue, ▽ hollow and orange. */
export function Change({ value, decimals = 2 }: { value: number; decimals?: number }) {
  if (Number.isNaN(value)) return null
  // What is shown as nought has no direction.
  if (Number(Math.abs(value).toFixed(decimals)) === 0) return <span>{decimal(0, decimals)}</span>
  return (
    <span className={value > 0 ? 'up' : 'down'}>
      <span aria-hidden>{value > 0 ? '▲' : '▽'} </span>
      <span className="visually-hidden">{value > 0 ? 'up ' : 'down '}</span>
      {decimal(Math.abs(value), decimals)}
    </span>
  )
}
