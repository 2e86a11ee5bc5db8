import { QueryObserver } from '@tanstack/react-query'
import { expect, it, vi } from 'vitest'

import { onNews, queryClient } from './queries'

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
