'use client'
import { MantineProvider } from '@mantine/core'
import { Notifications } from '@mantine/notifications'
import { type ReactNode, useSyncExternalStore } from 'react'
import { Schedules } from '../find/Schedules'
import { LinkProvider } from '../link/LinkProvider'
import { DayRail } from './DayRail'
import { Headline } from './Headline'
import { Palette } from './Palette'
import { SectionTabs } from './SectionTabs'
import css from './Shell.module.css'
import { theme } from './theme'

const never = () => () => undefined

/** False on the server and for the first draw: pages show what the browser keeps, which the server cannot know. */
const useInBrowser = () =>
  useSyncExternalStore(
    never,
    () => true,
    () => false,
  )

/** What stands around every screen: day rail, headline, sections, command palette. */
export function Shell({ brokerUrl, children }: { brokerUrl: string; children: ReactNode }) {
  const inBrowser = useInBrowser()
  return (
    <MantineProvider theme={theme} defaultColorScheme="auto">
      <Notifications position="bottom-right" autoClose={6000} classNames={{ root: css.notices }} />
      <LinkProvider brokerUrl={brokerUrl}>
        {inBrowser && <Schedules />}
        <div className={css.frame}>
          <DayRail />
          <Headline />
          <SectionTabs />
          <main className={css.page}>{inBrowser && children}</main>
        </div>
        <Palette />
      </LinkProvider>
    </MantineProvider>
  )
}
