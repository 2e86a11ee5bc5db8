import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { dropOwnPages, keepPages, pagesQuery } from '../api/pages'
import type { Setup } from '../api/client'
import { attempt } from '../ui/notices'
import { pageFor, type Page } from './page'

export interface Pages {
  pages: readonly Page[]
  shown: Page
  /** Which of them is shown. */
  at: number
  turnTo: (at: number) => void
  /** Change the page that is shown, for oneself. */
  change: (page: Page) => void
  add: (page: Page) => void
  remove: () => void
  /** It is not known yet which there are. */
  isPending: boolean
  isOwn: boolean
  problem: string
  keepForEverybody: () => void
  dropOwn: () => void
}

/** The pages of a setup as this person sees them: their own, else the setup's, else what suits. */
export function usePages(setup: Setup): Pages {
  const { data: kept, isPending } = useQuery(pagesQuery(setup.id))
  const [wanted, turnTo] = useState(0)
  const pages = kept?.own ?? kept?.everybody ?? [pageFor(setup)]
  const at = Math.min(wanted, pages.length - 1)
  const keep = (next: readonly Page[], forEverybody = false) =>
    void attempt(keepPages(setup.id, next, forEverybody))
  return {
    pages,
    shown: pages[at]!,
    at,
    turnTo,
    change: (page) => page !== pages[at] && keep(pages.map((one, i) => (i === at ? page : one))),
    add: (page) => {
      keep([...pages, page])
      turnTo(pages.length)
    },
    remove: () => keep(pages.filter((_, i) => i !== at)),
    isPending,
    isOwn: !!kept?.own,
    problem: kept?.problem ?? '',
    keepForEverybody: () => keep(pages, true),
    dropOwn: () => void attempt(dropOwnPages(setup.id)),
  }
}
