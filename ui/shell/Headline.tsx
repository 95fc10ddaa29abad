'use client'
import { spotlight } from '@mantine/spotlight'
import { AppLink } from './AppLink'
import { AsideNotice } from './AsideNotice'
import { useAccount, useMoney, useSession } from '../link/LinkProvider'
import { useLink } from '../link/useLink'
import { ArmedCount } from './ArmedCount'
import { ClockControl } from './ClockControl'
import { DataAge } from './DataAge'
import { EnvironmentControl } from './EnvironmentControl'
import { SheetProgress } from './SheetProgress'
import { StandDown } from './StandDown'
import { TabTitle } from './TabTitle'
import { WaitingPlans } from './WaitingPlans'
import css from './Shell.module.css'

/** The state of the day as one sentence, each part a control. */
export function Headline() {
  const there = useLink((s) => s.there)
  const why = useLink((s) => s.why)
  const account = useAccount().data
  const session = useSession().data
  const money = useMoney()
  return (
    <header className={css.headline}>
      <TabTitle />
      <div className={css.sentence}>
        <EnvironmentControl />
        <span className={css.dot}>·</span>
        {there === 'no' || there === 'refused' ? (
          <span role="alert" className={`${css.notice} refusal`}>
            {why}
          </span>
        ) : (
          <>
            <ClockControl session={session} />
            <span className={css.dot}>·</span>
            <DataAge />
            {account && (
              <>
                <span className={css.dot}>·</span>
                <AppLink className="blank" href="/desk" style={{ textDecoration: 'none' }}>
                  equity {money(account.equity)}
                </AppLink>
              </>
            )}
            <AsideNotice />
            <ArmedCount />
            <WaitingPlans />
            <SheetProgress />
          </>
        )}
      </div>
      <button
        type="button"
        className={css.search}
        onClick={spotlight.open}
        aria-label="Search securities and commands"
      >
        <span>Search </span>
        <kbd>/</kbd>
      </button>
      <StandDown />
    </header>
  )
}
