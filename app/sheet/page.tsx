import { type Metadata } from 'next'
import { SheetPage } from '@/ui/sheet/SheetPage'

export const metadata: Metadata = { title: 'Sheet · Fleet Heron' }

export default function Page() {
  return <SheetPage />
}
