import { type Metadata } from 'next'
import { FindPage } from '@/ui/find/FindPage'

export const metadata: Metadata = { title: 'Find · Fleet Heron' }

export default function Page() {
  return <FindPage />
}
