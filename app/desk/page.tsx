import { type Metadata } from 'next'
import { DeskPage } from '@/ui/desk/DeskPage'

export const metadata: Metadata = { title: 'Desk · Fleet Heron' }

export default function Page() {
  return <DeskPage />
}
