/** Who may sign in, and one's own password. */

import { infiniteQueryOptions } from '@tanstack/react-query'

import { client, got, type Schemas } from './client'
import { queryClient } from './queries'

export type PersonRow = Schemas['PersonOut']
export type Role = Schemas['NewPerson']['role']

export const ROLES: readonly (readonly [Role, string])[] = [
  ['reviewer', 'Reviewer'],
  ['technician', 'Technician'],
  ['engineer', 'Engineer'],
]

export const peopleQuery = (wanted: { removed: boolean; search: string }) =>
  infiniteQueryOptions({
    queryKey: ['people', wanted],
    queryFn: ({ pageParam: after }) =>
      got(client.GET('/api/people', { params: { query: { ...wanted, after } } })),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (last) => last.next ?? undefined,
    staleTime: 0,
    placeholderData: (before) => before,
  })

const at = (id: number) => ({ params: { path: { person_id: id } } })

async function thenRead(answer: Promise<unknown>): Promise<void> {
  await answer
  await queryClient.invalidateQueries({ queryKey: ['people'] })
}

export const addPerson = (body: Schemas['NewPerson']): Promise<void> =>
  thenRead(got(client.POST('/api/people', { body })))

export const changeRole = (id: number, role: Role): Promise<void> =>
  thenRead(got(client.PATCH('/api/people/{person_id}', { ...at(id), body: { role } })))

export const givePassword = (id: number, password: string): Promise<void> =>
  thenRead(got(client.POST('/api/people/{person_id}/password', { ...at(id), body: { password } })))

export const endSessions = (id: number): Promise<void> =>
  thenRead(got(client.POST('/api/people/{person_id}/end-sessions', at(id))))

export const removePerson = (id: number): Promise<void> =>
  thenRead(got(client.DELETE('/api/people/{person_id}', at(id))))

export const changeOwnPassword = (body: Schemas['OwnPassword']): Promise<unknown> =>
  got(client.POST('/api/session/password', { body }))
