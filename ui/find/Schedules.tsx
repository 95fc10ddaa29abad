'use client'
import { useSchedule } from './useSchedule'

/** Sees to it, on every screen, that saved scans which run by themselves do. Shows nothing. */
export function Schedules() {
  useSchedule()
  return null
}
