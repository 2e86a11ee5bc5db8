/** How oneself wants readings and tables shown; nothing stored changes with it. */

import { queryOptions } from '@tanstack/react-query'

import { learnDisplay } from '../ui/display'
import { client, got, type Schemas } from './client'
import { queryClient } from './queries'

export type Preferences = Schemas['PreferencesOut']

function learnt(preferences: Preferences): Preferences {
  learnDisplay(preferences.display)
  return preferences
}

export const preferencesQuery = queryOptions({
  queryKey: ['preferences'],
  queryFn: async () => learnt(await got(client.GET('/api/session/preferences'))),
  staleTime: Infinity,
})

type Change = Partial<Schemas['PreferencesChange']>

/** Null takes a preference back. Throws `ProblemError` for the field to show. */
export async function changePreferences(change: Change): Promise<void> {
  const body = { display: {}, columns: {}, ...change }
  const found = learnt(await got(client.PATCH('/api/session/preferences', { body })))
  queryClient.setQueryData(preferencesQuery.queryKey, found)
  if (change.display) {
    await queryClient.invalidateQueries({ queryKey: ['setup'] })
    await queryClient.invalidateQueries({ queryKey: ['readings'] })
  }
}
