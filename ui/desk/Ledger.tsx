import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import { sharesIn, type Unlike, unlike } from '@/core/book/holdings'
import { securityText } from '@/core/options/words'
import { useOf, usePositions, useServices } from '../link/LinkProvider'

/**
 * Holds what the page has added up from every execution report against what the broker says is held. A difference is told
 * once it was found twice: an answer may be older than a report that came meanwhile.
 */
export function Ledger() {
  const { holdings } = useServices()
  const { data: positions, dataUpdatedAt } = usePositions()
  const folded = useQuery({
    queryKey: [useOf(), 'folded', dataUpdatedAt],
    queryFn: () => holdings.all(),
    enabled: positions !== undefined,
  }).data
  const [told, setTold] = useState<Unlike[]>([])
  const before = useRef('')
  useEffect(() => {
    if (!folded || !positions) return
    const found = unlike(sharesIn(folded), positions)
    const text = JSON.stringify(found)
    setTold(text === before.current ? found : [])
    before.current = text
  }, [folded, positions])
  if (told.length === 0) return null
  return (
    <p role="alert" className="warning">
      Added up from its reports this account holds{' '}
      {told
        .map(
          ({ symbol, folded: own, told: theirs }) =>
            `${own} ${securityText(symbol)}, the broker says ${theirs}`,
        )
        .join('; ')}
      . Load the page again; if it stays so, go by the broker’s statement.
    </p>
  )
}
