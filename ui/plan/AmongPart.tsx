import { useLiveQuery } from 'dexie-react-hooks'
import { useState } from 'react'
import { db } from '@/store/db'
import { type Among } from '@/core/plans/document'
import { type Found } from '@/core/plans/found'
import { InlineChoice, InlineLong, InlineText } from '../ticket/Inline'
import { useUniverse } from '../find/useUniverse'
import { FoundPart } from './FoundPart'
import { PairScanPart } from './PairScanPart'

type Kind = 'list' | 'index' | 'positions' | 'own' | 'other' | 'found' | 'pairs' | 'any'
const FIRST: Found = {
  ...{ name: 'the liveliest', rule: 'volume > 300k', every: '1 day', in: 'All' },
  ...{ soFar: false, by: 'usualvolume(20)', lowest: false, first: 10, again: 'Session' },
}

const STARTS: Record<Kind, Among> = {
  list: { list: ['OSPRY'] },
  index: { index: 'Brackwater All-Share' },
  positions: { positions: 'Account' },
  own: { positions: 'Plan' },
  other: { positions: { plan: 'fast-over-slow' } },
  found: { found: FIRST },
  pairs: { pairs: [['OSPRY', 'GANET']] },
  any: { any: 'Orderable' },
}

/** What a plan looks at: a list, pairs, an index, what the account holds, or what a search finds. */
export function AmongPart({ of, among, change }: { of: string; among: Among; change(among: Among): void }) {
  const kind = kindOf(among)
  const turn = (next: Kind) => change(STARTS[next])
  return (
    <>
      <InlineChoice
        label={`Looks at${of}`}
        value={kind}
        options={[
          ['list', 'these:'],
          ['index', 'the members of'],
          ['positions', 'what the account holds'],
          ['own', 'what this plan holds'],
          ['other', 'what the plan of this id holds:'],
          ['found', 'what a search finds:'],
          ['pairs', 'these pairs:'],
          ['any', 'any security that can be ordered'],
        ]}
        onChange={turn}
      />{' '}
      {'list' in among && (
        <SymbolList label={`Securities${of}`} list={among.list} change={(list) => change({ list })} />
      )}
      {'index' in among && (
        <IndexBlank label={`Index${of}`} index={among.index} change={(index) => change({ index })} />
      )}
      {'positions' in among && typeof among.positions === 'object' && (
        <PlanBlank
          label={`Plan that holds it${of}`}
          id={among.positions.plan}
          change={(plan) => change({ positions: { plan } })}
        />
      )}
      {'pairs' in among && (
        <>
          <PairList label={`Pairs${of}`} pairs={among.pairs} change={(pairs) => change({ pairs })} />
          <PairScanPart of={of} among={among} change={change} />
        </>
      )}
      {'found' in among && <FoundPart of={of} found={among.found} change={(found) => change({ found })} />}
    </>
  )
}

const kindOf = (among: Among): Kind =>
  !('positions' in among)
    ? (Object.keys(among)[0] as Kind)
    : among.positions === 'Account'
      ? 'positions'
      : among.positions === 'Plan'
        ? 'own'
        : 'other'

/** One of the indices that there are. */
function IndexBlank({ label, index, change }: { label: string; index: string; change(index: string): void }) {
  const { indices } = useUniverse({ is: 'everything' })
  return (
    <InlineChoice
      label={label}
      value={index}
      options={[...new Set([...indices, index])].map((one) => [one, one] as const)}
      onChange={change}
    />
  )
}

/** The id of another plan; those that are here are proposed. */
function PlanBlank({ label, id, change }: { label: string; id: string; change(id: string): void }) {
  const [typed, setTyped] = useState<string>()
  const kept = useLiveQuery(() => db.plans.toCollection().primaryKeys()) ?? []
  return (
    <span onBlur={() => setTyped(undefined)}>
      <InlineText
        label={label}
        among={kept}
        value={typed ?? id}
        onChange={(text) => {
          setTyped(text)
          if (/^[a-z0-9-]{1,40}$/.test(text)) change(text)
        }}
      />
    </span>
  )
}

type Pairs = Extract<Among, { pairs: unknown }>['pairs']

/** Pairs with a stroke between the two: OSPRY/GANET, KIPPR/TERNW; what is no pair is left out. */
const PairList = (props: { label: string; pairs: Pairs; change(pairs: Pairs): void }) => (
  <TypedList
    label={props.label}
    list={props.pairs}
    say={(pair) => pair.join('/')}
    read={(word): [string, string] | undefined => {
      const [one, other, more] = word.split('/')
      return one && other && one !== other && more === undefined ? [one, other] : undefined
    }}
    change={props.change}
  />
)

/** Symbols between blanks or commas. */
const SymbolList = (props: { label: string; list: readonly string[]; change(list: string[]): void }) => (
  <TypedList {...props} say={(one) => one} read={(word) => word} />
)

/** Words between blanks or commas, each once; an empty list changes nothing. */
function TypedList<One>({
  label,
  list,
  say,
  read,
  change,
}: {
  label: string
  list: readonly One[]
  say(one: One): string
  /** Undefined for a word that is none. */
  read(word: string): One | undefined
  change(list: One[]): void
}) {
  const [typed, setTyped] = useState<string>()
  return (
    <span onBlur={() => setTyped(undefined)}>
      <InlineLong
        label={label}
        most={8000}
        value={typed ?? list.map(say).join(', ')}
        onChange={(text) => {
          setTyped(text)
          const words = [...new Set(text.toUpperCase().split(/[\s,]+/))].filter(Boolean)
          const next = words.map(read).filter((one): one is NonNullable<typeof one> => one !== undefined)
          if (next.length > 0) change(next)
        }}
      />
    </span>
  )
}
