import { useState } from 'react'
import { type Among } from '@/core/plans/document'
import { type Found } from '@/core/plans/found'
import { InlineChoice, InlineText } from '../ticket/Inline'
import { FoundPart } from './FoundPart'

type Kind = 'list' | 'positions' | 'found' | 'pairs'
const FIRST: Found = {
  ...{ name: 'the liveliest', rule: 'volume > 300k', every: '1 day', in: 'All' },
  ...{ by: 'usualvolume(20)', lowest: false, first: 10, again: 'Session' },
}

const STARTS: Record<Kind, Among> = {
  list: { list: ['OSPRY'] },
  positions: { positions: 'Account' },
  found: { found: FIRST },
  pairs: { pairs: [['OSPRY', 'GANET']] },
}

/** What a plan looks at: a list, pairs, what the account holds, or what a search finds. */
export function AmongPart({ of, among, change }: { of: string; among: Among; change(among: Among): void }) {
  const kind = Object.keys(among)[0] as Kind
  const turn = (next: Kind) => change(STARTS[next])
  return (
    <>
      <InlineChoice
        label={`Looks at${of}`}
        value={kind}
        options={[
          ['list', 'these:'],
          ['positions', 'what the account holds'],
          ['found', 'what a search finds:'],
          ['pairs', 'these pairs:'],
        ]}
        onChange={turn}
      />{' '}
      {'list' in among && (
        <SymbolList label={`Securities${of}`} list={among.list} change={(list) => change({ list })} />
      )}
      {'pairs' in among && (
        <PairList label={`Pairs${of}`} pairs={among.pairs} change={(pairs) => change({ pairs })} />
      )}
      {'found' in among && <FoundPart of={of} found={among.found} change={(found) => change({ found })} />}
    </>
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
      <InlineText
        label={label}
        among={[]}
        most={4000}
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
