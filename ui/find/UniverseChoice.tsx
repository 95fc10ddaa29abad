'use client'
import { Menu } from '@mantine/core'
import { useRouter } from 'next/navigation'
import { type ScanFrame } from '@/store/db'
import { chooseUniverse, useFind } from './findStore'
import { type useUniverse } from './useUniverse'

const FRAMES: Record<ScanFrame, string> = {
  '1 day': 'daily bars',
  '1 day so far': 'daily bars and today so far',
  '1 week': 'weekly bars',
  '15 min': '15 minute bars',
}

/** "everything on Brackwater, daily bars": both parts can be changed where they stand. */
export function UniverseChoice({ chosen }: { chosen: ReturnType<typeof useUniverse> }) {
  const router = useRouter()
  const { frame, universe } = useFind()
  return (
    <>
      <Menu position="bottom-start">
        <Menu.Target>
          <button type="button" className="blank" aria-label={`Universe: ${chosen.text}`}>
            {chosen.text}
          </button>
        </Menu.Target>
        <Menu.Dropdown mah={420} style={{ overflow: 'auto' }}>
          <Menu.Item onClick={() => chooseUniverse({ is: 'everything' })}>everything on Brackwater</Menu.Item>
          <Menu.Item onClick={() => chooseUniverse({ is: 'kind', kind: 'Stock' })}>all stocks</Menu.Item>
          <Menu.Item onClick={() => chooseUniverse({ is: 'kind', kind: 'Fund' })}>all funds</Menu.Item>
          {chosen.scans.length > 0 && <Menu.Label>Last result of a scan</Menu.Label>}
          {chosen.scans.map((scan) => (
            <Menu.Item key={scan.id} onClick={() => chooseUniverse({ is: 'scan', scanId: scan.id })}>
              {scan.name}
            </Menu.Item>
          ))}
          <Menu.Label>My own data</Menu.Label>
          {chosen.own.map((data) => (
            <Menu.Item key={data.id} onClick={() => chooseUniverse({ is: 'own', dataId: data.id })}>
              {data.name} ({data.symbols.length})
            </Menu.Item>
          ))}
          <Menu.Item onClick={() => router.push('/data')}>bring bars from CSV files …</Menu.Item>
          <Menu.Label>A sector</Menu.Label>
          {chosen.sectors.map((sector) => (
            <Menu.Item key={sector} onClick={() => chooseUniverse({ is: 'sector', sector })}>
              {sector}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
      ,{' '}
      {universe.is === 'own' ? (
        'its bars'
      ) : (
        <Menu position="bottom-start">
          <Menu.Target>
            <button type="button" className="blank" aria-label={`Bars: ${FRAMES[frame]}`}>
              {FRAMES[frame]}
            </button>
          </Menu.Target>
          <Menu.Dropdown>
            {(Object.keys(FRAMES) as ScanFrame[]).map((key) => (
              <Menu.Item
                key={key}
                onClick={() => useFind.setState({ frame: key, result: undefined, selected: undefined })}
              >
                {FRAMES[key]}
              </Menu.Item>
            ))}
          </Menu.Dropdown>
        </Menu>
      )}
    </>
  )
}
