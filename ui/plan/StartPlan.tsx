'use client'
import { Button, Modal } from '@mantine/core'
import { useRouter } from 'next/navigation'
import { useState } from 'react'
import { seedPlan, type Seed, type Way, type Wish } from '@/core/plans/seed'
import { sayStorageError } from '@/store/db'
import { tellProblem } from '../shell/tell'
import { InlineChoice } from '../ticket/Inline'
import { NumberBlank } from './blanks'
import css from './Plan.module.css'
import { startPlan } from './planStore'

const WAYS: readonly (readonly [Way, string])[] = [
  ['up', 'passes up through'],
  ['down', 'passes down through'],
  ['either', 'passes, either way,'],
]
const DEEDS: readonly (readonly [Wish['deed'], string])[] = [
  ['buy', 'buy'],
  ['close', 'sell what is held'],
  ['short', 'sell short'],
  ['tell', 'only tell me'],
]

/** Begins a plan from what stands here: one sentence is asked first. */
export function StartPlan({
  seed,
  what,
  label,
  children,
}: {
  seed(): Seed
  /** What is passed, or met: "shelf", "the rule". */
  what: string
  label?: string
  children: string
}) {
  const [begun, setBegun] = useState<Seed>()
  return (
    <>
      <Button variant="subtle" size="xs" px={6} aria-label={label} onClick={() => setBegun(seed())}>
        {children}
      </Button>
      <StartSentence seed={begun} what={what} onClose={() => setBegun(undefined)} />
    </>
  )
}

/** The sentence in which a plan is begun: what happens, what is done then, how much, stop and target. Nothing is filled in unasked. */
export function StartSentence({
  seed,
  what,
  onClose,
}: {
  seed: Seed | undefined
  what: string
  onClose(): void
}) {
  return (
    <Modal opened={seed !== undefined} onClose={onClose} title={seed ? `Plan: ${seed.name}` : ''}>
      {seed && <Sentence seed={seed} what={what} onClose={onClose} />}
    </Modal>
  )
}

function Sentence({ seed, what, onClose }: { seed: Seed; what: string; onClose(): void }) {
  const router = useRouter()
  const [wish, setWish] = useState<Partial<Wish> & Pick<Wish, 'way' | 'from'>>({ way: 'up', from: 'each' })
  const put = (part: Partial<Wish>) => setWish((before) => ({ ...before, ...part }))
  const { deed, shares } = wish
  const opens = deed === 'buy' || deed === 'short'
  const passes = typeof seed.rule !== 'string'
  const one = seed.symbols.length === 1
  const missing = !deed
    ? 'Choose what is to be done.'
    : opens && shares === undefined
      ? 'Fill in how many shares.'
      : undefined
  const begin = () => {
    const asked = { ...wish, deed: deed! } as Wish
    startPlan(seedPlan(seed, asked), asked.from === 'these' && !one).then(
      () => (onClose(), router.push('/plan')),
      (error: unknown) => tellProblem(new Error(sayStorageError(error))),
    )
  }
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault()
        if (!missing) begin()
      }}
    >
      <p className="serif" style={{ fontSize: 17, lineHeight: 1.7 }}>
        {seed.found ? (
          <>
            For{' '}
            <InlineChoice
              label="For which securities"
              value={wish.from}
              options={[
                ['each', 'every security that meets it from now on'],
                ['these', `these ${seed.symbols.length} now`],
              ]}
              onChange={(from) => put({ from })}
            />
            :{' '}
          </>
        ) : passes ? (
          <>
            When {seed.symbols.join(', ')}{' '}
            <InlineChoice
              label="Which way"
              value={wish.way}
              options={WAYS}
              onChange={(way) => put({ way })}
            />{' '}
            {what}:{' '}
          </>
        ) : (
          <>
            When {seed.symbols.join(', ')} meets {what}:{' '}
          </>
        )}
        <InlineChoice
          label="What is done"
          value={deed ?? ''}
          options={[['', 'choose …'] as const, ...DEEDS]}
          onChange={(next) => put({ deed: next === '' ? undefined : next })}
        />
        {opens && (
          <>
            {' '}
            <NumberBlank
              label="Shares"
              value={shares}
              onChange={(next) => put({ shares: next && Math.max(1, Math.round(next)) })}
            />{' '}
            shares, stop{' '}
            <NumberBlank label="Stop in percent" value={wish.stop} onChange={(stop) => put({ stop })} /> %,
            target{' '}
            <NumberBlank
              label="Target in percent"
              value={wish.target}
              onChange={(target) => put({ target })}
            />{' '}
            %
          </>
        )}
        {one && ', once'}.
      </p>
      {opens && wish.stop === undefined && <p className="soft">Without a stop nothing bounds the loss.</p>}
      <div className={css.foot}>
        {missing && (
          <span role="status" className="soft">
            {missing}
          </span>
        )}
        <Button variant="default" onClick={onClose}>
          Not now
        </Button>
        <Button type="submit" disabled={missing !== undefined}>
          Begin the plan
        </Button>
      </div>
    </form>
  )
}
