import { createJSONStorage, type StateStorage } from 'zustand/middleware'

/** What a tab keeps over a reload, and loses when it is closed. A storage that refuses keeps nothing, and breaks nothing. */
const lenient: StateStorage = {
  getItem(name) {
    try {
      return sessionStorage.getItem(name)
    } catch {
      return null
    }
  },
  setItem(name, value) {
    try {
      sessionStorage.setItem(name, value)
    } catch {
      // Full or forbidden: what is written lasts until the next reload.
    }
  },
  removeItem(name) {
    try {
      sessionStorage.removeItem(name)
    } catch {
      // Nothing was kept.
    }
  },
}

/** Storage for `persist` of zustand: of this tab, over a reload. */
export const tabStorage = <S>() => createJSONStorage<S>(() => lenient)
