import { QueryObserver } from '@tanstack/react-query'
import { afterEach, expect, it, vi } from 'vitest'

import { setup } from '../ui/testing-data'
import { client } from './client'
import { keepSetup } from './actions'
import { keep, onNews, queryClient, setupQuery } from './queries'

it('loads again what was being loaded for the first time when news came', async () => {
  let stored = 'before'
  let answer = () => {}
  const load = vi.fn(() => {
    const read = stored // by the server, before it answers
    return new Promise<string>((resolve) => (answer = () => resolve(read)))
  })
  const observer = new QueryObserver(queryClient, { queryKey: ['derivations', 1], queryFn: load })
  const leave = observer.subscribe(() => {})
  await vi.waitFor(() => expect(load).toHaveBeenCalledTimes(1))
  stored = 'after'
  onNews({ kind: 'result' })
  answer()
  await vi.waitFor(() => expect(load).toHaveBeenCalledTimes(2))
  answer()
  await vi.waitFor(() => expect(observer.getCurrentResult().data).toBe('after'))
  leave()
})

/** A query on the screen; its reads give, once answered, what was stored when they began. */
function onScreen(key: readonly unknown[], stored: string) {
  const server = { stored, answers: [] as (() => void)[] }
  const load = vi.fn(() => {
    const read = server.stored
    return new Promise<string>((resolve) => server.answers.push(() => resolve(read)))
  })
  queryClient.setQueryData(key, stored)
  const observer = new QueryObserver(queryClient, { queryKey: key, queryFn: load })
  const shown: (string | undefined)[] = []
  const leave = observer.subscribe(({ data }) => shown.push(data))
  return { server, load, observer, shown, leave }
}

it('reads once more after a read that is under way, however many news come meanwhile', async () => {
  const { server, load, observer, leave } = onScreen(['bench', 8], 'idle')
  for (const state of ['away', 'moving', 'home']) {
    server.stored = state
    onNews({ kind: 'bench' })
  }
  expect(load).toHaveBeenCalledTimes(1)
  server.answers[0]!()
  await vi.waitFor(() => expect(load).toHaveBeenCalledTimes(2))
  server.answers[1]!()
  await vi.waitFor(() => expect(observer.getCurrentResult().data).toBe('home'))
  expect(load).toHaveBeenCalledTimes(2)
  leave()
})

it('shows no older state again after an action was answered', async () => {
  const key = ['bench', 7]
  const { server, load, observer, shown, leave } = onScreen(key, 'nobody')
  void queryClient.invalidateQueries({ queryKey: key })
  await vi.waitFor(() => expect(load).toHaveBeenCalledTimes(1))
  server.stored = 'me' // the action is done; its answer comes before that of the read
  await keep(key, 'me')
  await vi.waitFor(() => expect(load).toHaveBeenCalledTimes(2))
  for (const answer of server.answers) answer()
  await new Promise((done) => setTimeout(done, 5))
  expect(observer.getCurrentResult().data).toBe('me')
  expect(shown.slice(shown.indexOf('me'))).not.toContain('nobody')
  leave()
})

it('goes back to no earlier version of a setup', async () => {
  const { queryKey } = setupQuery(1)
  await keepSetup(setup({ version: 5 }))
  await keepSetup(setup({ version: 4 }))
  expect(queryClient.getQueryData(queryKey)!.version).toBe(5)
  await keepSetup(setup({ version: 6 }))
  expect(queryClient.getQueryData(queryKey)!.version).toBe(6)
})

/** A setup that is on the screen at version 10, and how often it is read. */
async function shownSetup() {
  const { queryKey } = setupQuery(1)
  const load = vi.fn(() => new Promise<never>(() => {}))
  queryClient.clear()
  await keepSetup(setup({ version: 10 }))
  const observer = new QueryObserver(queryClient, { queryKey, queryFn: load, staleTime: Infinity })
  return { load, leave: observer.subscribe(() => {}) }
}

afterEach(() => vi.useRealTimers())

it("shows somebody else's version at once, and reads none that it shows", async () => {
  const { load, leave } = await shownSetup()
  onNews({ kind: 'setup', setup: 2, version: 99 })
  onNews({ kind: 'setup', setup: 1, version: 10 })
  expect(load).not.toHaveBeenCalled()
  onNews({ kind: 'setup', setup: 1, version: 11 })
  expect(load).toHaveBeenCalledOnce()
  leave()
})

it("does not read what the answer of one's own action brings", async () => {
  const { load, leave } = await shownSetup()
  vi.useFakeTimers()
  let answer: (response: Response) => void
  const answered = new Promise<Response>((resolve) => (answer = resolve))
  const params = { path: { channel_id: 1 } }
  const given = { params, body: {}, fetch: () => answered }
  const action = client.PATCH('/api/channels/{channel_id}', given)
  await vi.advanceTimersByTimeAsync(1)
  onNews({ kind: 'setup', setup: 1, version: 11 })
  onNews({ kind: 'setup', setup: 1, version: 12 }) // somebody else's, at the same moment
  answer!(Response.json(setup({ version: 11 })))
  await keepSetup((await action).data!)
  expect(load).not.toHaveBeenCalled()
  await vi.advanceTimersByTimeAsync(400)
  expect(load).toHaveBeenCalledOnce()
  await keepSetup(setup({ version: 12 }))
  onNews({ kind: 'setup', setup: 1, version: 12 })
  leave()
})
