'use client'
import { Menu } from '@mantine/core'
import { useRouter } from 'next/navigation'
import { type Joining, type Universe } from '@/store/db'
import { chooseUniverse, useFind } from './findStore'
import { countryName, type useUniverse, venueName } from './useUniverse'

type Chosen = ReturnType<typeof useUniverse>

/** "everything listed and also …": sets of securities, one by one or joined, each changed where it stands. */
export function UniverseChoice({ chosen }: { chosen: Chosen }) {
  const { universe } = useFind()
  return (
    <>
      <Choice chosen={chosen} label={`Universe: ${chosen.text}`} text={chosen.text} onChoose={chooseUniverse}>
        {universe.is !== 'own' && (
          <>
            <Menu.Divider />
            {(['and', 'without', 'or'] as const).map((how) => (
              <JoinMenu key={how} how={how} chosen={chosen} first={universe} />
            ))}
            {universe.is === 'joined' && (
              <Menu.Item onClick={() => chooseUniverse(universe.parts[0])}>take the last part away</Menu.Item>
            )}
          </>
        )}
      </Choice>
    </>
  )
}

const JOIN_WORDS: Record<Joining, string> = {
  and: 'only those also in …',
  without: 'without those in …',
  or: 'and those in …',
}

function JoinMenu({ how, chosen, first }: { how: Joining; chosen: Chosen; first: Universe }) {
  return (
    <Menu.Sub>
      <Menu.Sub.Target>
        <Menu.Sub.Item>{JOIN_WORDS[how]}</Menu.Sub.Item>
      </Menu.Sub.Target>
      <Menu.Sub.Dropdown mah={380} style={{ overflow: 'auto' }}>
        <Sets
          chosen={chosen}
          onChoose={(other) => chooseUniverse({ is: 'joined', how, parts: [first, other] })}
        />
      </Menu.Sub.Dropdown>
    </Menu.Sub>
  )
}

function Choice({
  chosen,
  label,
  text,
  onChoose,
  children,
}: {
  chosen: Chosen
  label: string
  text: string
  onChoose(universe: Universe): void
  children?: React.ReactNode
}) {
  const router = useRouter()
  return (
    <Menu position="bottom-start">
      <Menu.Target>
        <button type="button" className="blank" aria-label={label}>
          {text}
        </button>
      </Menu.Target>
      <Menu.Dropdown mah={440} style={{ overflow: 'auto' }}>
        <Sets chosen={chosen} onChoose={onChoose} />
        <Menu.Label>My own data</Menu.Label>
        {chosen.own.map((data) => (
          <Menu.Item key={data.id} onClick={() => onChoose({ is: 'own', dataId: data.id })}>
            {data.name} ({data.symbols.length})
          </Menu.Item>
        ))}
        <Menu.Item onClick={() => router.push('/data')}>bring bars or lists from files …</Menu.Item>
        {children}
      </Menu.Dropdown>
    </Menu>
  )
}

/** Every set of listed securities. */
function Sets({ chosen, onChoose }: { chosen: Chosen; onChoose(universe: Universe): void }) {
  return (
    <>
      <Menu.Item onClick={() => onChoose({ is: 'everything' })}>everything listed</Menu.Item>
      <Menu.Item onClick={() => onChoose({ is: 'kind', kind: 'Stock' })}>all stocks</Menu.Item>
      <Menu.Item onClick={() => onChoose({ is: 'kind', kind: 'Fund' })}>all funds</Menu.Item>
      {chosen.venues.map((mic) => (
        <Menu.Item key={mic} onClick={() => onChoose({ is: 'venue', mic })}>
          everything on {venueName(mic)}
        </Menu.Item>
      ))}
      {chosen.indices.map((index) => (
        <Menu.Item key={index} onClick={() => onChoose({ is: 'index', index })}>
          the members of {index}
        </Menu.Item>
      ))}
      {chosen.lists.length > 0 && <Menu.Label>My lists</Menu.Label>}
      {chosen.lists.map((list) => (
        <Menu.Item key={list.id} onClick={() => onChoose({ is: 'list', listId: list.id })}>
          {list.name} ({list.symbols.length.toLocaleString('en-US')})
        </Menu.Item>
      ))}
      {chosen.scans.length > 0 && <Menu.Label>Last result of a scan</Menu.Label>}
      {chosen.scans.map((scan) => (
        <Menu.Item key={scan.id} onClick={() => onChoose({ is: 'scan', scanId: scan.id })}>
          {scan.name}
        </Menu.Item>
      ))}
      <Menu.Label>A sector</Menu.Label>
      {chosen.sectors.map((sector) => (
        <Menu.Item key={sector} onClick={() => onChoose({ is: 'sector', sector })}>
          {sector}
        </Menu.Item>
      ))}
      <Menu.Label>A country</Menu.Label>
      {chosen.countries.map((country) => (
        <Menu.Item key={country} onClick={() => onChoose({ is: 'country', country })}>
          {countryName(country)}
        </Menu.Item>
      ))}
    </>
  )
}
