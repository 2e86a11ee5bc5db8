import { useSyncExternalStore } from 'react'

/** What a person is asked before something is done. */
export interface Questions {
  title: string
  /** What doing it is called. */
  action: string
  names: readonly string[]
  answer: (answers: Record<string, string> | null) => void
}

let open: Questions | null = null
const given: Record<string, string> = {} // answered before, proposed again
const listeners = new Set<() => void>()

function set(next: Questions | null): void {
  open = next
  for (const listener of listeners) listener()
}

/** Ask for some things; null where the person leaves it. Asked again, the earlier one is left. */
export function ask(
  title: string,
  action: string,
  names: readonly string[],
): Promise<Record<string, string> | null> {
  open?.answer(null)
  return new Promise((resolve) => {
    const answer = (answers: Record<string, string> | null) => {
      Object.assign(given, answers)
      set(null)
      resolve(answers)
    }
    set({ title, action, names, answer })
  })
}

/** What was answered before. */
export const givenBefore = (name: string): string => given[name] ?? ''

export const useQuestions = (): Questions | null =>
  useSyncExternalStore(
    (listener) => {
      listeners.add(listener)
      return () => listeners.delete(listener)
    },
    () => open,
  )
