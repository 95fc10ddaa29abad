import { BAR_FIELDS, type ColumnMap } from '@/core/formats/barColumns'
import { type FirstLine } from '@/core/formats/barFiles'
import { sayLine } from '@/core/formats/say'
import { priceText, short } from '@/core/market/money'
import css from './Data.module.css'

const PRICES = ['open', 'high', 'low', 'close'] as const

/** The first lines of a file: how each is read, then as it stands there, each column under what it is taken for. */
export function FirstLines({
  columns,
  map,
  lines,
  named,
}: {
  columns: readonly string[]
  map: ColumnMap
  lines: readonly FirstLine[]
  named: boolean
}) {
  if (lines.length === 0) return null
  const fieldOf = (column: number) => BAR_FIELDS.find((field) => map[field] === column)
  return (
    <div className={css.firstLines}>
      <table aria-label="First lines of the file, and how they are read">
        <thead>
          <tr>
            <th scope="col">Line</th>
            <th scope="col" className={css.readAs}>
              Read as
            </th>
            {columns.map((column, i) => (
              <th key={i} scope="col" data-taken={fieldOf(i) !== undefined || undefined}>
                {named ? column || `column ${i + 1}` : `column ${i + 1}`}
                <span>{fieldOf(i) ?? 'left out'}</span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lines.map(({ line, cells, read, problem }) => (
            <tr key={line}>
              <td>{line}</td>
              <td className={css.readAs}>
                {read ? (
                  <>
                    <strong>{read.symbol}</strong> {read.when}:{' '}
                    {PRICES.map((name) => priceText(read[name])).join(' · ')}
                    {Number.isNaN(read.volume) ? '' : `, volume ${short(read.volume)}`}
                  </>
                ) : (
                  <span className={problem ? 'warning' : 'soft'}>
                    {problem ? `left out: ${sayLine(problem)}` : 'not read yet'}
                  </span>
                )}
              </td>
              {columns.map((_, i) => (
                <td key={i}>{cells[i] ?? ''}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
