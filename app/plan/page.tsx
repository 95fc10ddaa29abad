import { type Metadata } from 'next'
import { PlanPage } from '@/ui/plan/PlanPage'

export const metadata: Metadata = { title: 'Plan · Fleet Heron' }

export default function Page() {
  return <PlanPage />
}
