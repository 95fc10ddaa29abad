import { useQuery } from '@tanstack/react-query'
import { type SetAside, type WorldView } from '@/core/orders/worlds'
import { useConnection } from '../link/connection'
import { useBroker } from '../link/LinkProvider'

/** Rehearsals and set-aside worlds. Only in paper, since rehearsals take paper keys. */
export function useRehearsals() {
  const broker = useBroker()
  const { environment } = useConnection()
  return useQuery({
    queryKey: [environment, 'rehearsals'],
    queryFn: () => broker.rehearsals(),
    enabled: environment === 'paper',
    staleTime: 30_000,
  })
}

export const isSetAside = (one: WorldView | SetAside): one is SetAside => 'why' in one
