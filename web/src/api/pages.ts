/** Pages of panes as the server keeps them, for each person and for everybody. */

import { queryOptions } from '@tanstack/react-query'

import { client, got, type Schemas } from './client'
import { queryClient } from './queries'

type Page = Schemas['Page']
type Kept = Schemas['PagesOut']

const VERSION = 1 // of what pages consist of
const of = (setup_id: number) => ({ params: { path: { setup_id } } })

export const pagesQuery = (setup: number) =>
  queryOptions({
    queryKey: ['pages', setup],
    queryFn: () => got(client.GET('/api/setups/{setup_id}/pages', of(setup))),
  })

/** One after the other: what was arranged last is what stays. */
let saving: Promise<unknown> = Promise.resolve()
let newest = 0

/** Shown at once, and kept after it; what cannot be kept is taken back, and thrown. */
export async function keepPages(
  setup: number,
  pages: readonly Page[],
  forEverybody: boolean,
): Promise<void> {
  const key = pagesQuery(setup).queryKey
  const before = queryClient.getQueryData(key)
  const mine = ++newest
  const own: Kept = { everybody: null, problem: '', ...before, own: [...pages] }
  queryClient.setQueryData(key, own)
  const body = { version: VERSION, pages: [...pages], for_everybody: forEverybody }
  try {
    const save = () => got(client.PUT('/api/setups/{setup_id}/pages', { ...of(setup), body }))
    const answer = saving.then(save, save)
    saving = answer
    const kept = await answer
    if (mine === newest) queryClient.setQueryData(key, kept)
  } catch (error) {
    if (mine === newest) queryClient.setQueryData(key, before)
    throw error
  }
}

export async function dropOwnPages(setup: number): Promise<void> {
  const kept = await got(client.DELETE('/api/setups/{setup_id}/pages', of(setup)))
  queryClient.setQueryData(pagesQuery(setup).queryKey, kept)
}
