import { type Indicator } from './types'

/** Indicators by name. The checker, the compiler, the editor and the documents read the same entries. */
export interface Registry {
  get(name: string): Indicator | undefined
  all(): readonly Indicator[]
}

/** A registry of the given definitions. Throws Error where two have the same name. */
export function makeRegistry(definitions: readonly Indicator[]): Registry {
  const known = new Map<string, Indicator>()
  for (const definition of definitions) {
    if (known.has(definition.name))
      throw new Error(`Indicator "${definition.name}" exists; choose another name`)
    known.set(definition.name, Object.freeze(definition))
  }
  return { get: (name) => known.get(name), all: () => [...known.values()] }
}
