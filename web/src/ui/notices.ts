import { useSyncExternalStore } from 'react'

import { ProblemError } from '../api/client'

/** A sentence for the person, shown until it is read: what went wrong, or what was done. */
export interface Notice {
  id: number
  tone: 'bad' | 'good'
  title: string
  hint?: string
}

let notices: readonly Notice[] = []
let counter = 0
const listeners = new Set<() => void>()
const GOOD_STAYS = 4000 // ms

function set(next: readonly Notice[]): void {
  notices = next
  for (const listener of listeners) listener()
}

export function dismiss(id: number): void {
  set(notices.filter((n) => n.id !== id))
}

export function say(title: string, hint?: string): void {
  const id = ++counter
  set([...notices.slice(-2), { id, tone: 'good', title, hint }])
  setTimeout(() => dismiss(id), GOOD_STAYS)
}

export function complain(error: unknown): void {
  const { title, hint, detail } = ProblemError.of(error)
  const same = notices.filter((n) => n.title !== title)
  set([...same.slice(-2), { id: ++counter, tone: 'bad', title, hint: hint ?? detail }])
}

/** Run an action; a failure becomes a notice. */
export async function attempt<T>(action: Promise<T>): Promise<T | undefined> {
  try {
    return await action
  } catch (error) {
    complain(error)
    return undefined
  }
}

export function useNotices(): readonly Notice[] {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener)
      return () => listeners.delete(listener)
    },
    () => notices,
  )
}
