'use client'
import { useQuery } from '@tanstack/react-query'
import { parse, print } from '@/core/rules'
import { type FanForm, inOtherForm, sayFanForm } from '@/core/rules/fanForms'
import { useServices } from '../link/LinkProvider'
import { type Source } from '../services/market'
import { useMarket } from '../market/useMarket'
import css from './Find.module.css'
import { useFind } from './findStore'

/** Which of two forms is written, how often each came true, and the other in one step. */
export function TwoForms({
  form,
  source,
  among,
}: {
  form: FanForm
  source: Source | undefined
  among: readonly string[] | undefined
}) {
  const market = useMarket()
  const { scans } = useServices()
  const { data } = useQuery({
    queryKey: ['forms', form.here, form.other, JSON.stringify(source), among],
    enabled: market !== undefined && source !== undefined,
    staleTime: Infinity,
    queryFn: async ({ signal }) => {
      const count = async (rule: string) =>
        (
          await scans.run(
            market!,
            source!,
            { rule: parse(rule).tree!, measures: [], among },
            () => undefined,
            signal,
          )
        ).came
      return [await count(form.here), await count(form.other)] as const
    },
  })
  const said = sayFanForm(form, data?.[0], data?.[1])
  const take = () => {
    const { tree } = parse(useFind.getState().rule)
    if (tree) useFind.setState({ rule: print(inOtherForm(tree, form)) })
  }
  return (
    <p className={css.issue} role="status" data-testid="two forms">
      <span className={form.is === 'on one bar' ? 'warning' : 'soft'}>{said.here}</span>{' '}
      <button type="button" className="blank" onClick={take}>
        Ask for {said.other}
      </button>
    </p>
  )
}
