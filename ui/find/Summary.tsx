import { useQuery } from '@tanstack/react-query'
import { sayEnd } from '@/core/market/moments'
import { parse, whyUnknown } from '@/core/rules'
import { useServices } from '../link/LinkProvider'
import { extrasIn, frameName, splitFrame, timeframeOf } from '../market/frames'
import { useMarket } from '../market/useMarket'
import { type Source } from '../services/market'
import { useUpdates } from '../services/updates'
import css from './Find.module.css'
import { type Found, useFind } from './findStore'

/** "38 of 412 meet it · 3 unknown · as of Friday's close, all up to date". */
export function Summary({
  problem,
  asked,
  source,
  running = false,
}: {
  problem: string
  asked: number | undefined
  source: Source | undefined
  /** Whether a scan is under way, so that what stands here may not be all. */
  running?: boolean
}) {
  const { result, rule, live, entered, left } = useFind()
  const kept = useKeptOnly(result)
  const soFarOf = running && result && asked !== undefined && result.looked < asked ? asked : undefined
  const why = useWhyUnknown(soFarOf === undefined ? result : undefined, source)
  if (problem) {
    return (
      <p role="alert" className="refusal">
        {problem}
      </p>
    )
  }
  if (!result)
    return (
      <p className="soft">
        {asked === undefined ? 'ready' : `${asked.toLocaleString('en-US')} securities to look through`}
      </p>
    )
  const { rows, looked, unknown, asOf, stale, holey, empty, absent } = result
  const edited = result.rule !== rule
  const { every, soFar } = splitFrame(result.frame)
  const oldest = stale.length > 0 ? Math.min(...stale.map((s) => s.end)) : NaN
  const listed = (symbols: readonly string[]) => symbols.slice(0, 30).join(', ')
  return (
    <p data-testid="summary" className={css.told}>
      {edited && <span className="warning">The rule was changed since: </span>}
      <strong>{rows.length.toLocaleString('en-US')}</strong> of {looked.toLocaleString('en-US')}{' '}
      {edited ? 'met it before' : 'meet it'}
      {soFarOf !== undefined && ` so far; ${soFarOf.toLocaleString('en-US')} to look through`}
      {unknown.length > 0 && (
        <span title={listed(unknown)}>
          {' '}
          · <strong>{unknown.length.toLocaleString('en-US')}</strong> unknown
          {why && <span className="soft">, such as {why}</span>}
        </span>
      )}
      {Number.isFinite(asOf) && (
        <span className="soft">
          {' '}
          · {soFar ? 'the bar so far, ' : 'completed bars, '}as of{' '}
          {sayEnd(timeframeOf(every), result.zone, asOf, soFar)}
        </span>
      )}
      {stale.length > 0 ? (
        <span className="warning" title={listed(stale.map((s) => s.symbol))}>
          {' '}
          · {stale.length.toLocaleString('en-US')} end earlier, the oldest {ageText(asOf - oldest)} before
        </span>
      ) : (
        looked > empty.length &&
        !kept &&
        soFarOf === undefined && <span className="soft">, all up to date</span>
      )}
      {holey.length > 0 && (
        <span className="warning" title={listed(holey)}>
          {' '}
          · {holey.length.toLocaleString('en-US')} miss some bars
        </span>
      )}
      {absent.length > 0 && (
        <span className="warning" title={listed(absent)}>
          {' '}
          · {absent.length.toLocaleString('en-US')} have no bars here
        </span>
      )}
      {kept && <span className="refusal"> · {kept}</span>}
      {live && (
        <span className="soft">
          {' '}
          · looking every few seconds: {Object.keys(entered).length} came, {Object.keys(left).length} went in
          the last minute
        </span>
      )}
    </p>
  )
}

/** Why the first of those is unknown for which the rule is; undefined until it is known. */
function useWhyUnknown(result: Found | undefined, source: Source | undefined): string | undefined {
  const market = useMarket()
  const { scans } = useServices()
  const symbol = result?.unknown[0]
  const { data } = useQuery({
    queryKey: ['unknown', symbol, result?.rule, JSON.stringify(source)],
    enabled: symbol !== undefined && market !== undefined && source !== undefined,
    staleTime: Infinity,
    queryFn: async () => {
      const { tree } = parse(result!.rule)
      const part = tree && (await scans.explain(market!, source!, { rule: tree, symbol: symbol! }))
      return part ? (whyUnknown(part) ?? '') : 'it has no bars'
    },
  })
  return data ? `${symbol}: ${data}` : undefined
}

/** What is to be said where a result's bars could not be brought up to date; empty where they were. */
function useKeptOnly(result: Found | undefined): string {
  const updates = useUpdates((s) => s.updates)
  const { universe } = useFind()
  if (!result || universe.is === 'own') return ''
  const parts = splitFrame(result.frame)
  const texts = [result.rule, ...result.measureTexts]
  const frame = { ...parts, extras: extrasIn(texts) }
  const update = updates[frameName(frame)]
  return update?.state === 'failed' ? (update.problem ?? '') : ''
}

const ageText = (ms: number): string => {
  const days = Math.round(ms / 86_400_000)
  return days <= 1 ? 'a day' : `${days.toLocaleString('en-US')} days`
}
