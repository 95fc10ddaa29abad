'use client'
import { Button } from '@mantine/core'
import { useRouter } from 'next/navigation'
import { seedPlan, type Seed } from '@/core/plans/seed'
import { sayStorageError } from '@/store/db'
import { tellProblem } from '../shell/tell'
import { startPlan } from './planStore'

/** Begins a plan from a seed, and goes to it: size and arming remain. */
export function useStartPlan(): (seed: Seed) => void {
  const router = useRouter()
  return (seed) => {
    startPlan(seedPlan(seed)).then(
      () => router.push('/plan'),
      (error: unknown) => tellProblem(new Error(sayStorageError(error))),
    )
  }
}

/** Begins a plan from what stands here. */
export function StartPlan({ seed, label, children }: { seed(): Seed; label?: string; children: string }) {
  const begin = useStartPlan()
  return (
    <Button variant="subtle" size="xs" px={6} aria-label={label} onClick={() => begin(seed())}>
      {children}
    </Button>
  )
}
