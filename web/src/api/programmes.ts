import { queryOptions } from '@tanstack/react-query'

import { keepSetup } from './actions'
import { client, got, type Schemas } from './client'
import { queryClient } from './queries'

export const programmesQuery = queryOptions({
  queryKey: ['programmes'],
  queryFn: () => got(client.GET('/api/programmes')),
})

const again = () => queryClient.invalidateQueries({ queryKey: ['programmes'] })

/** Keep a setup's programme under a name, for others; one of that name is replaced. */
export async function keepProgramme(setup_id: number, name: string): Promise<void> {
  const path = { params: { path: { setup_id } } }
  await got(client.POST('/api/setups/{setup_id}/programmes', { ...path, body: { name } }))
  await again()
}

export async function removeProgramme(programme_id: number): Promise<void> {
  const path = { params: { path: { programme_id } } }
  await got(client.DELETE('/api/programmes/{programme_id}', path))
  await again()
}

/** Have a setup do what a kept programme says. */
export async function takeProgramme(setup_id: number, programme_id: number): Promise<void> {
  const path = { params: { path: { setup_id } } }
  const url = '/api/setups/{setup_id}/programme'
  await keepSetup(await got(client.POST(url, { ...path, body: { programme_id } })))
}

/** What a file of forces comes to. */
export const readForces = (text: string): Promise<Schemas['HistoryOut']> =>
  got(client.POST('/api/force-histories', { body: { text } }))
