'use client'
import { Button } from '@mantine/core'
import { useRouter } from 'next/navigation'
import { seedPlan, type Seed } from '@/core/plans/seed'
import { sayStorageError } from '@/store/db'
import { tellProblem } from '../shell/tell'
import { startPlan } from './planStore'

/** Begins a plan from what stands here, and goes to it: size and arming remain. */
export function StartPlan({ seed, label, children }: { seed(): Seed; label?: string; children: string }) {
  const router = useRouter()
  const begin = async () => {
    try {
      await startPlan(seedPlan(seed()))
      router.push('/plan')
    } catch (error) {
      tellProblem(new Error(sayStorageError(error)))
    }
  }
  return (
    <Button variant="subtle" size="xs" px={6} aria-label={label} onClick={() => void begin()}>
      {children}
    </Button>
  )
}
