import { useSyncExternalStore } from 'react'

export type Theme = 'day' | 'night'

const KEY = 'yoke-theme'
const listeners = new Set<() => void>()
const tokens = new Map<string, string>()

/** A token's value in the present theme; looked up once, since asking makes the browser style all. */
export function token(name: string): string {
  let value = tokens.get(name)
  if (value === undefined) {
    value = getComputedStyle(document.documentElement).getPropertyValue(name).trim()
    tokens.set(name, value)
  }
  return value
}

const current = (): Theme => (document.documentElement.dataset.theme === 'night' ? 'night' : 'day')

export function setTheme(theme: Theme): void {
  document.documentElement.dataset.theme = theme
  tokens.clear()
  localStorage.setItem(KEY, theme)
  for (const listener of listeners) listener()
}

/** What was chosen last, or what the computer asks for. */
export function startTheme(): void {
  const kept = localStorage.getItem(KEY)
  const dark = matchMedia('(prefers-color-scheme: dark)').matches
  setTheme(kept === 'day' || kept === 'night' ? kept : dark ? 'night' : 'day')
}

export function useTheme(): Theme {
  return useSyncExternalStore((listener) => {
    listeners.add(listener)
    return () => listeners.delete(listener)
  }, current)
}
