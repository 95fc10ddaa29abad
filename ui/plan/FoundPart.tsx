import { useLiveQuery } from 'dexie-react-hooks'
import { DateTime } from 'luxon'
import { type Found } from '@/core/plans/found'
import { db, type SavedScan, type ScanRun } from '@/store/db'
import { splitFrame } from '../market/frames'
import { useSession } from '../link/LinkProvider'
import { membersOf } from '../market/universe'
import { tell } from '../shell/tell'
import { useUniverse } from '../find/useUniverse'
import { InlineAction, InlineChoice } from '../ticket/Inline'
import { NumberBlank, TextBlank } from './blanks'
import css from './Plan.module.css'

/** A search in a sentence: where, by which rule, in which order, how many, how often. */
export function FoundPart({ of, found, change }: { of: string; found: Found; change(found: Found): void }) {
  const { saved, choices, choose } = useSaved(found, change)
  const put = (part: Partial<Found>) => change({ ...found, ...part })
  // What is changed by hand is the saved scan no more.
  const own = (part: Partial<Found>) => {
    const { scan: _scan, ...rest } = { ...found, ...part }
    change(rest)
  }
  return (
    <>
      the first{' '}
      <NumberBlank
        label={`At most so many${of}`}
        value={found.first}
        onChange={(first) => put({ first: first === undefined ? undefined : Math.max(1, Math.round(first)) })}
      />{' '}
      of{' '}
      <InlineChoice
        label={`Search${of}`}
        value={found.scan?.id ?? ''}
        options={[['', 'a search of its own'], ...choices]}
        onChange={(id) => (id === '' ? own({}) : choose(id))}
      />
      : where{' '}
      <TextBlank label={`Rule of the search${of}`} value={found.rule} onChange={(rule) => own({ rule })} /> on{' '}
      <InlineChoice
        label={`Bars of the search${of}`}
        value={found.every}
        options={[...new Set(['1 day', '1 hour', '15 min', '5 min', found.every])].map(
          (one) => [one, one] as const,
        )}
        onChange={(every) => own({ every })}
      />{' '}
      bars,{' '}
      <InlineChoice
        label={`Bars of the search that count${of}`}
        value={found.soFar ? 'so far' : 'complete'}
        options={[
          ['complete', 'complete ones'],
          ['so far', 'the growing one too'],
        ]}
        onChange={(next) => own({ soFar: next === 'so far', asOf: undefined })}
      />
      , among <WhereBlank of={of} where={found.in} change={(where) => own({ in: where })} />,{' '}
      <InlineChoice
        label={`Order of the search${of}`}
        value={found.by === undefined ? 'symbol' : found.lowest ? 'lowest' : 'highest'}
        options={[
          ['highest', 'the highest'],
          ['lowest', 'the lowest'],
          ['symbol', 'in the order of their symbols'],
        ]}
        onChange={(order) =>
          order === 'symbol'
            ? put({ by: undefined, lowest: false })
            : put({ by: found.by ?? 'volume', lowest: order === 'lowest' })
        }
      />
      {found.by !== undefined && (
        <>
          {' '}
          <TextBlank
            label={`Measure of the order${of}`}
            value={found.by}
            onChange={(by) => put({ by })}
          />{' '}
          first
        </>
      )}
      , <LookedUp of={of} found={found} put={put} />
      {saved && <SavedLine saved={saved} found={found} takeOver={() => choose(saved.scan.id)} />}
    </>
  )
}

/** How often it is looked up, or at the end of which day it stands. */
function LookedUp({ of, found, put }: { of: string; found: Found; put(part: Partial<Found>): void }) {
  const today = useSession().data?.date
  const { asOf, again } = found
  const kind = asOf !== undefined ? 'asOf' : again === 'Session' ? 'Session' : 'minutes'
  return (
    <>
      <InlineChoice
        label={`Looked up${of}`}
        value={kind}
        options={[
          ['Session', 'looked up each session'],
          ['minutes', 'looked up every so many minutes:'],
          ['asOf', 'as of the end of'],
        ]}
        onChange={(next) =>
          next === 'asOf'
            ? put({ asOf: today, soFar: false })
            : put({ asOf: undefined, again: next === 'Session' ? 'Session' : { minutes: 15 } })
        }
      />
      {kind === 'minutes' && again !== 'Session' && (
        <>
          {' '}
          <NumberBlank
            label={`Minutes between searches${of}`}
            needed
            value={again.minutes}
            onChange={(minutes) =>
              put({ again: { minutes: Math.min(390, Math.max(1, Math.round(minutes!))) } })
            }
          />
        </>
      )}
      {kind === 'asOf' && (
        <>
          {' '}
          <input
            type="date"
            className="blank"
            aria-label={`Day of the search${of}`}
            value={asOf}
            max={today}
            onChange={(e) => e.currentTarget.value && put({ asOf: e.currentTarget.value })}
          />
        </>
      )}
    </>
  )
}

/** Where it looks: everything, the members of an index, or one of the trader's lists as it is now. */
export function WhereBlank({
  of,
  where,
  change,
}: {
  of: string
  where: Found['in']
  change(where: Found['in']): void
}) {
  const { indices, lists } = useUniverse({ is: 'everything' })
  const listed = where !== 'All' && 'list' in where ? where.list : undefined
  const same = lists.find(({ symbols }) => symbols.join() === listed?.join())
  const value =
    where === 'All' ? 'All' : 'index' in where ? `index ${where.index}` : same ? `list ${same.id}` : 'list'
  return (
    <InlineChoice
      label={`Looks through${of}`}
      value={value}
      options={[
        ['All', 'everything'],
        ...indices.map((index) => [`index ${index}`, `the members of ${index}`] as const),
        ...lists.map(
          ({ id, name, symbols }) => [`list ${id}`, `the list ${name} (${symbols.length})`] as const,
        ),
        ...(listed && !same ? [['list', `${listed.length} securities`] as const] : []),
      ]}
      onChange={(next) => {
        const [kind] = next.split(' ')
        const name = next.slice(kind.length + 1)
        const list = lists.find(({ id }) => id === name)
        if (kind === 'All') change('All')
        else if (kind === 'index') change({ index: name })
        else if (list && list.symbols.length > 0) change({ list: list.symbols.slice(0, 2000) })
      }}
    />
  )
}

interface Saved {
  scan: SavedScan
  run?: ScanRun
}

/** Saved scans that a search can be, the one that it is, and how it becomes another. */
function useSaved(found: Found, change: (found: Found) => void) {
  const { scans, listed, lists } = useUniverse({ is: 'everything' })
  const runs = useLiveQuery(() => db.runs.orderBy('ranAt').toArray(), [])
  const scan = scans.find(({ id }) => id === found.scan?.id)
  const saved: Saved | undefined = scan && {
    scan,
    run: runs?.findLast(({ scanId }) => scanId === scan.id),
  }
  const choose = (id: string) => {
    const next = scans.find((one) => one.id === id)
    if (!next) return
    const last = new Map((runs ?? []).map((run) => [run.scanId, run.symbols]))
    const members = membersOf(next.universe, listed, last, lists)
    if (!members) return tell(`${next.name} looks through data of your own, which the broker does not list.`)
    const { universe, order } = next
    const measure = order?.by.startsWith('measure ') ? order.by.slice('measure '.length) : undefined
    change({
      ...{ name: next.name.slice(0, 60), scan: { id, version: next.version }, rule: next.rule },
      ...splitFrame(next.frame),
      in:
        universe.is === 'everything'
          ? 'All'
          : universe.is === 'index'
            ? { index: universe.index }
            : { list: members.slice(0, 2000) },
      ...(measure === undefined ? {} : { by: measure }),
      lowest: measure !== undefined && order?.down === false,
      first: found.first ?? 10,
      again: found.again,
    })
  }
  return {
    saved,
    choose,
    choices: scans.map(({ id, name }) => [id, `the scan ${name}`] as const),
  }
}

/** What is known of the saved scan that a search was taken from, and that it has changed since. */
function SavedLine({
  saved: { scan, run },
  found,
  takeOver,
}: {
  saved: Saved
  found: Found
  takeOver(): void
}) {
  const at =
    run?.marketTime &&
    DateTime.fromMillis(run.marketTime, { zone: run.zone ?? 'UTC' }).toFormat('ccc d LLL HH:mm')
  return (
    <span className={css.between} style={{ display: 'block' }}>
      {scan.name}, version {found.scan!.version};{' '}
      {run ? `its last run found ${run.symbols.length}${at ? `, ${at}` : ''}` : 'it was not run yet'}
      {scan.version !== found.scan!.version && (
        <>
          {' '}
          · <b>it has changed since</b>: version {scan.version} asks “{scan.rule}”{' '}
          <InlineAction label="Take the changed scan over" onAct={takeOver}>
            take it over
          </InlineAction>
        </>
      )}
    </span>
  )
}
