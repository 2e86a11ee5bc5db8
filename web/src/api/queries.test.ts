import { QueryObserver } from '@tanstack/react-query'
import { expect, it, vi } from 'vitest'

import { setup } from '../ui/testing-data'
import { keepSetup } from './deeds'
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

it('shows no older state again after a deed was answered', async () => {
  let holder = 'nobody'
  const answers: (() => void)[] = []
  const load = vi.fn(() => {
    const read = holder
    return new Promise<string>((resolve) => answers.push(() => resolve(read)))
  })
  const key = ['bench', 7]
  queryClient.setQueryData(key, 'nobody')
  const observer = new QueryObserver(queryClient, { queryKey: key, queryFn: load })
  const shown: (string | undefined)[] = []
  const leave = observer.subscribe(({ data }) => shown.push(data))
  void queryClient.invalidateQueries({ queryKey: key })
  await vi.waitFor(() => expect(load).toHaveBeenCalledTimes(1))
  holder = 'me' // the deed is done; its answer comes before that of the read
  await keep(key, 'me')
  await vi.waitFor(() => expect(load).toHaveBeenCalledTimes(2))
  for (const answer of answers) answer()
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
