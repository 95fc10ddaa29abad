'use client'
import { keepInList } from '@/store/lists'
import { sayStorageError } from '@/store/db'
import { NameAndSave } from './NameAndSave'
import { tell, tellProblem } from './tell'

/** Keeps symbols as a list that scans, and plans, can use; a list of that name is added to. */
export function KeepAsList({
  symbols,
  button,
  suggested,
}: {
  symbols: readonly string[]
  button: string
  suggested?: string
}) {
  const keep = async (name: string) => {
    try {
      const { all, fresh, isNew } = await keepInList(name, symbols)
      tell(isNew ? `Kept ${all} as “${name}”.` : `“${name}” has ${all} now, ${fresh} of them new.`)
    } catch (error) {
      tellProblem(new Error(sayStorageError(error)))
      throw error
    }
  }
  return (
    <NameAndSave
      button={button}
      label="Name of the list"
      suggested={suggested}
      about={() => ({
        description: `${symbols.length === 1 ? symbols[0] : `${symbols.length.toLocaleString('en-US')} securities`}; a list of that name is added to`,
        save: 'Keep',
      })}
      onSave={keep}
    />
  )
}
