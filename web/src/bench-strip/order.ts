import { useCallback, useState } from 'react'

/** The order in which a person has put a setup's tiles, kept in this browser. */

const place = (setupId: number) => `tiles-${setupId}`

function kept(setupId: number): string[] {
  try {
    const found: unknown = JSON.parse(localStorage.getItem(place(setupId)) ?? '[]')
    return Array.isArray(found) ? found.filter((k) => typeof k === 'string') : []
  } catch {
    return []
  }
}

/** Items by the kept order; new ones follow as they come. */
export function ordered<T extends { key: string }>(items: readonly T[], order: readonly string[]) {
  const at = (item: T) => {
    const found = order.indexOf(item.key)
    return found < 0 ? order.length : found
  }
  return items
    .map((item, i) => ({ item, i }))
    .sort((a, b) => at(a.item) - at(b.item) || a.i - b.i)
    .map(({ item }) => item)
}

export function useTileOrder(setupId: number) {
  const [order, setOrder] = useState(() => kept(setupId))
  const keep = useCallback(
    (next: string[]) => {
      localStorage.setItem(place(setupId), JSON.stringify(next))
      setOrder(next)
    },
    [setupId],
  )
  return [order, keep] as const
}
