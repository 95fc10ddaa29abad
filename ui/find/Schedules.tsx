'use client'
import { useEffect } from 'react'
import { useServices } from '../link/LinkProvider'
import { tell, tellProblem } from '../shell/tell'
import { sayProblem } from './useScan'

/** Says, on every screen, what the scans found that ran by themselves. Shows nothing itself. */
export function Schedules() {
  const { schedules } = useServices()
  useEffect(
    () =>
      schedules.listen((ran) => {
        if ('problem' in ran)
          tellProblem(new Error(`“${ran.name}” could not run by itself: ${sayProblem(ran.problem)}`))
        else tell(`“${ran.name}” ran by itself: ${ran.found} meet it, ${ran.fresh} of them new.`)
      }),
    [schedules],
  )
  return null
}
