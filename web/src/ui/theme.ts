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

function show(theme: Theme): void {
  document.documentElement.dataset.theme = theme
  tokens.clear()
  for (const listener of listeners) listener()
}

/** Choose for good, whatever the computer asks for. */
export function setTheme(theme: Theme): void {
  localStorage.setItem(KEY, theme)
  show(theme)
}

/** What was chosen, or what the computer asks for, now and when it changes. */
export function startTheme(): void {
  const dark = matchMedia('(prefers-color-scheme: dark)')
  const follow = () => {
    const kept = localStorage.getItem(KEY)
    show(kept === 'day' || kept === 'night' ? kept : dark.matches ? 'night' : 'day')
  }
  dark.addEventListener('change', follow)
  follow()
}

export function useTheme(): Theme {
  return useSyncExternalStore((listener) => {
    listeners.add(listener)
    return () => listeners.delete(listener)
  }, current)
}
