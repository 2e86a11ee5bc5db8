import { QueryClientProvider } from '@tanstack/react-query'
import { beforeEach, expect, it, vi } from 'vitest'

import type { Bench } from '../api/client'
import * as actions from '../api/actions'
import { queryClient, sessionQuery, type Right } from '../api/queries'
import * as provider from '../live/LiveProvider'
import type { BenchState } from '../live/source'
import { pressed, render } from '../ui/testing'
import { EmergencyBanner } from './EmergencyBanner'

vi.mock('../api/actions', { spy: true })
vi.mock('../live/LiveProvider', { spy: true })

const latched = { by: 'Reviewer', at: '2026-11-29T10:00:00Z' }

async function shown(bench: Partial<Bench>, may: Right[], state: Partial<BenchState>) {
  queryClient.setQueryData(sessionQuery.queryKey, {
    username: 'x', name: 'X', role: 'technician', may,
  }) // prettier-ignore
  vi.mocked(provider.useBenchState).mockReturnValue(state as BenchState)
  const of = { id: 7, name: 'Shed', yoke_mine: true, ...bench } as Bench
  return render(
    <QueryClientProvider client={queryClient}>
      <EmergencyBanner bench={of} />
    </QueryClientProvider>,
  )
}

beforeEach(() => vi.mocked(actions.releaseEmergencyStop).mockResolvedValue())

it('says who gave the stop, and whoever holds the yoke releases it', async () => {
  const box = await shown({}, ['drive the bench'], { latched })
  expect(box.textContent).toContain('Nothing moves on Shed until it is released')
  expect(box.textContent).toContain('by Reviewer')
  await pressed(box, 'Release the emergency stop')
  expect(actions.releaseEmergencyStop).toHaveBeenCalledWith(7)
})

it.each<[Partial<Bench>, Right[], string]>([
  [{ yoke_mine: false }, ['drive the bench'], 'Take the yoke to release it'],
  [{}, [], 'Whoever drives the bench releases it'],
])('says what its release waits for', async (bench, may, words) => {
  const box = await shown(bench, may, { latched })
  expect(box.querySelector('button')!.disabled).toBe(true)
  expect(box.textContent).toContain(words)
})

it('is not there while no stop is in force', async () => {
  const box = await shown({}, ['drive the bench'], { latched: null })
  expect(box.textContent).toBe('')
})
