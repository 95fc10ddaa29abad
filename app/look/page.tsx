import { type Metadata } from 'next'
import { LookStart } from '@/ui/look/LookStart'

export const metadata: Metadata = { title: 'Look · Fleet Heron' }

export default function Page() {
  return <LookStart />
}
