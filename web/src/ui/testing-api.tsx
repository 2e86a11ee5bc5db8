import { QueryClientProvider } from '@tanstack/react-query'
import { act, type ReactNode } from 'react'
import { MemoryRouter, useLocation } from 'react-router'
import { vi } from 'vitest'

import { client, type Person } from '../api/client'
import { queryClient, sessionQuery, type Right } from '../api/queries'
import { render } from './testing'

/** The API of a test: what each request is answered, and what was asked. */

interface Asked {
  request: string
  path?: Record<string, unknown>
  body?: unknown
}
type Answer = unknown
interface Init {
  params?: { path?: Record<string, unknown> }
  body?: unknown
}

const METHODS = ['GET', 'POST', 'PATCH', 'PUT', 'DELETE'] as const

/** A problem in place of an answer. */
export class Problem {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly hint = '',
  ) {}
}

/** Answer requests by a table of 'METHOD path'; what is not in it fails. Gives what is asked. */
export function serve(answers: Record<string, Answer>): Asked[] {
  const asked: Asked[] = []
  const answerOf =
    (method: string) =>
    async (path: string, init: Init = {}) => {
      const request = `${method} ${path}`
      asked.push({ request, path: init.params?.path, body: init.body })
      if (!(request in answers)) throw new Error(`Nobody answers ${request}.`)
      const listed = answers[request]
      const data: unknown =
        typeof listed === 'function' ? (listed as (init: Init) => unknown)(init) : listed
      if (data instanceof Problem)
        return { error: { ...data }, response: new Response(null, { status: data.status }) }
      return { data, response: new Response(null, { status: 200 }) }
    }
  for (const method of METHODS)
    vi.spyOn(client, method).mockImplementation(answerOf(method) as never)
  return asked
}

/** What was asked beside reads. */
export const actionsIn = (asked: readonly Asked[]) =>
  asked.filter((a) => !a.request.startsWith('GET'))

export function signIn(...may: Right[]): void {
  queryClient.clear()
  queryClient.setQueryData(sessionQuery.queryKey, { name: 'Engineer', may } as unknown as Person)
}

const Where = () => {
  const { pathname, search } = useLocation()
  return <output hidden>{pathname + search}</output>
}

/** Show a page with its queries and its address; waits until what it reads is there. */
export async function show(page: ReactNode, address = '/'): Promise<HTMLElement> {
  const box = await render(
    <QueryClientProvider client={queryClient}>
      <MemoryRouter initialEntries={[address]}>
        {page}
        <Where />
      </MemoryRouter>
    </QueryClientProvider>,
  )
  await settled()
  return box
}

const QUIET = 3 // looks in turn: what one answer shows may ask for the next

/** Once answers that are on their way have come and are shown. */
export const settled = () =>
  act(async () => {
    for (let quiet = 0; quiet < QUIET; quiet = queryClient.isFetching() ? 0 : quiet + 1)
      await new Promise((done) => setTimeout(done, 5))
  })

export const addressIn = (box: HTMLElement) => box.querySelector('output')!.textContent

export async function choose(box: HTMLElement, label: string, value: string): Promise<void> {
  const select = box.querySelector<HTMLSelectElement>(`select[aria-label="${label}"]`)!
  await act(async () => {
    select.value = value
    select.dispatchEvent(new Event('change', { bubbles: true }))
  })
}
