import { queryOptions } from '@tanstack/react-query'

import { client, got, type Schemas } from './client'
import { queryClient } from './queries'

export type Happening = Schemas['HappeningOut']
export type RunDrift = Schemas['RunDriftOut']

export const sinceQuery = queryOptions({
  queryKey: ['since'],
  queryFn: () => got(client.GET('/api/since')),
  refetchInterval: 30_000,
})

/** One has seen what happened up to a moment. */
export async function haveSeen(until: string): Promise<void> {
  await got(client.POST('/api/since/seen', { body: { until } }))
  await queryClient.invalidateQueries({ queryKey: ['since'] })
}
