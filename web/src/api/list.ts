/** A list that comes in pages, the newest first: what is here of it, and how to get more. */

import type { UseInfiniteQueryResult, InfiniteData } from '@tanstack/react-query'
import { useMemo } from 'react'

interface Page<T> {
  items: T[]
  count: number
}

export interface List<T> {
  /** The newest last, as people count them. */
  rows: T[]
  isLoading: boolean
  /** Older ones that are not here yet. */
  more: number
  older: () => void
  reading: boolean
}

export function useList<T>(found: UseInfiniteQueryResult<InfiniteData<Page<T>>>): List<T> {
  const pages = found.data?.pages
  const rows = useMemo(() => (pages ?? []).flatMap((p) => p.items).reverse(), [pages])
  return {
    rows,
    isLoading: found.isLoading,
    more: found.hasNextPage ? (pages?.[0]?.count ?? 0) - rows.length : 0,
    older: () => void found.fetchNextPage(),
    reading: found.isFetchingNextPage,
  }
}
