'use client'
import { Button, Popover, Progress, Tooltip, VisuallyHidden } from '@mantine/core'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { type Security } from '@/core/market/security'
import { print } from '@/core/rules'
import { ballotTree, type Vote, VOTE_MARKS, type Voter, voiceTree } from '@/core/scan/ballot'
import { type ScanRow } from '@/core/scan/scan'
import { BallotEditor, useBallot } from '../look/BallotEditor'
import look from '../look/Look.module.css'
import { useServices } from '../link/LinkProvider'
import { treesOf } from '../market/frames'
import { type Source } from '../services/market'
import { useMarket } from '../market/useMarket'
import { type Column, DataTable } from '../table/DataTable'
import { exportTable } from '../table/exportTable'
import css from './Find.module.css'
import { useFind } from './findStore'
import { sayProblem } from './useScan'

const VOICES: readonly Vote[] = ['for', 'against', 'abstains', 'unknown']

/** What one voice's share of the sum says; a broken rule has none. */
function voteIn(value: number | undefined): Vote {
  if (value === undefined || Number.isNaN(value)) return 'unknown'
  return value > 0 ? 'for' : value < 0 ? 'against' : 'abstains'
}

/** Each voice as a measure of its own: 1 for, -1 against, 0 where it abstains. Voices whose rules are not sound are left out. */
function measuresOf(voters: readonly Voter[]) {
  const sound = voters.flatMap((voter) => {
    const tree = voiceTree(voter)
    return tree ? [{ name: voter.name, text: print(tree) }] : []
  })
  const sum = ballotTree(voters)
  return { sound, sum: sum && print(sum) }
}

/** What the voices say of every security of the universe, the most in favour first. */
/** A rule that everyone meets who has bars. */
const [EVERYONE] = treesOf(['close > 0'])

export function BallotView({
  source,
  among,
  symbols,
  open,
}: {
  source: Source | undefined
  among: readonly string[] | undefined
  symbols: ReadonlyMap<string, Security>
  open(symbol: string): void
}) {
  const market = useMarket()
  const { scans } = useServices()
  const ballot = useBallot()
  const [selected, setSelected] = useState<string>()
  const [progress, setProgress] = useState(0)
  const [editing, setEditing] = useState(false)
  const { sound, sum } = useMemo(() => measuresOf(ballot.voters), [ballot])
  const { data, error, isFetching } = useQuery({
    queryKey: ['ballot', JSON.stringify(source), among, sound],
    enabled: market !== undefined && source !== undefined && sound.length > 0 && !editing,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => {
      const measures = treesOf([...sound.map((one) => one.text), ...(sum ? [sum] : [])])
      const told = (_: unknown, done: number, of: number) => setProgress((100 * done) / of)
      return scans.run(market!, source!, { rule: EVERYONE, measures, among }, told, signal)
    },
  })
  const allKnow = useMemo(
    () => !data?.rows.some((row) => sound.some((_, i) => voteIn(row.values[i]) === 'unknown')),
    [data, sound],
  )
  const columns = useMemo(
    (): Column<ScanRow>[] => [
      {
        id: 'symbol',
        header: 'Symbol',
        value: (row) => row.symbol,
        cell: (row) => <strong title={symbols.get(row.symbol)?.name}>{row.symbol}</strong>,
      },
      { id: 'name', header: 'Company', fileOnly: true, value: (row) => symbols.get(row.symbol)?.name },
      {
        id: 'sum',
        header: `Sum of ${sound.length}`,
        right: true,
        value: (row) => row.values[sound.length],
        cell: (row) => <Sum value={row.values[sound.length]} />,
      },
      {
        id: 'unknown',
        header: 'Unknown',
        right: true,
        // Where every voice knows, a column of noughts tells nothing.
        fileOnly: allKnow,
        value: (row) => sound.filter((_, i) => voteIn(row.values[i]) === 'unknown').length,
      },
      ...sound.map(({ name }, i): Column<ScanRow> => ({
        id: `voice ${i}`,
        header: name,
        value: (row) => voteIn(row.values[i]),
        cell: (row) => (
          <Tooltip label={`${name}: ${voteIn(row.values[i])}`} openDelay={300}>
            <span className={look.vote} data-vote={voteIn(row.values[i])}>
              <span aria-hidden>{VOTE_MARKS[voteIn(row.values[i])]}</span>
              <VisuallyHidden>{voteIn(row.values[i])}</VisuallyHidden>
            </span>
          </Tooltip>
        ),
      })),
    ],
    [sound, symbols, allKnow],
  )
  const rows = data?.rows ?? []
  const unsound = ballot.voters.length - sound.length
  return (
    <div className={css.history}>
      <div className={css.resultBar}>
        <span className="soft" role="status">
          {rows.length.toLocaleString('en-US')} securities;{' '}
          {VOICES.map((v) => `${VOTE_MARKS[v]} ${v}`).join(', ')}; the sum is voices for less voices against
          {unsound > 0 && `; ${unsound} voices have a rule that is not sound`}
        </span>
        <span style={{ flex: 1 }} />
        <Popover position="bottom-end" opened={editing} onChange={setEditing} trapFocus>
          <Popover.Target>
            <Button size="xs" variant="default" onClick={() => setEditing(!editing)}>
              Change the voices
            </Button>
          </Popover.Target>
          <Popover.Dropdown w={380} mah={520} style={{ overflow: 'auto' }}>
            <BallotEditor ballot={ballot} />
          </Popover.Dropdown>
        </Popover>
        <Button
          size="xs"
          variant="default"
          disabled={rows.length === 0}
          onClick={() => exportTable('ballot', 'csv', rows, columns)}
        >
          Export CSV
        </Button>
      </div>
      {error && (
        <p role="alert" className="refusal">
          {sayProblem(error)}
        </p>
      )}
      {isFetching && <Progress value={progress} size={3} aria-label="The voices are asked" />}
      {rows.length > 0 ? (
        <DataTable
          label="Ballot"
          rows={rows}
          columns={columns}
          idOf={(row) => row.symbol}
          initialSort={[{ id: 'sum', desc: true }]}
          selected={selected}
          onSelect={({ symbol }) => {
            setSelected(symbol)
            useFind.setState({ selected: symbol })
          }}
          onOpen={(row) => open(row.symbol)}
        />
      ) : (
        !isFetching && <p className="soft">There is nobody in this universe to be asked about.</p>
      )}
    </div>
  )
}

function Sum({ value }: { value: number | undefined }) {
  if (value === undefined || Number.isNaN(value)) return <span className="soft">unknown</span>
  return (
    <strong>
      {value > 0 ? '+' : value < 0 ? '−' : ''}
      {Math.abs(value)}
    </strong>
  )
}
