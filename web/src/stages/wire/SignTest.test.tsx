import { QueryClientProvider } from '@tanstack/react-query'
import { act } from 'react'
import { beforeEach, expect, it, vi } from 'vitest'

import type { Channel } from '../../api/client'
import { changeScaling, keepSignTest } from '../../api/actions'
import { queryClient, sessionQuery, type Right } from '../../api/queries'
import { pressed, render } from '../../ui/testing'
import { channel, UNITS } from '../../ui/testing-data'
import { learnUnits } from '../../ui/units'
import { SignTest } from './SignTest'

const live = vi.hoisted(() => ({
  reading: { mean: 0, deviation: 0, clipped: false, raw: 0 },
  listeners: new Set<() => void>(),
  put(change: object) {
    live.reading = { ...live.reading, ...change }
    for (const heard of live.listeners) heard()
  },
  subscribe(heard: () => void) {
    live.listeners.add(heard)
    return () => live.listeners.delete(heard)
  },
}))
vi.mock('../../live/LiveProvider', async () => {
  const { useSyncExternalStore } = await import('react')
  return { useReading: () => useSyncExternalStore(live.subscribe, () => live.reading) }
})
vi.mock('../../api/actions', () => ({
  keepSignTest: vi.fn(async () => {}),
  changeScaling: vi.fn(async () => {}),
}))

beforeEach(() => {
  learnUnits(UNITS)
  vi.mocked(keepSignTest).mockClear()
  live.put({ mean: 0, deviation: 0, clipped: false })
})

let box: HTMLElement
async function section(of: Channel, may: Right[] = ['zero and check channels', 'change scaling']) {
  const person = { username: 'x', name: 'X', role: 'engineer', may }
  queryClient.setQueryData(sessionQuery.queryKey, person)
  box = await render(
    <QueryClientProvider client={queryClient}>
      <SignTest channel={of} />
    </QueryClientProvider>,
  )
}

const goes = (mean: number, deviation = 0) => act(async () => live.put({ mean, deviation }))

it('asks what was done once the reading went clearly, and keeps the largest change', async () => {
  await section(channel())
  await pressed(box, 'Press here: which way does it go?')
  await goes(7.9, 1) // eight deviations are eight
  expect(box.textContent).toContain('Load the part by hand')
  await goes(-120, 1)
  await goes(-30, 1)
  expect(box.textContent).toContain('It went down by 0.120 kN')
  await pressed(box, 'Pressed')
  const kept = { positive: false, polarity: 'as wired', moved: -120, deviation: 1 }
  expect(keepSignTest).toHaveBeenCalledWith(1, kept)
})

it('counts nothing that is below the last digits shown', async () => {
  await section(channel())
  await pressed(box, 'Press here: which way does it go?')
  await goes(2.9)
  expect(box.textContent).toContain('Load the part by hand')
  await goes(3.2)
  expect(box.textContent).toContain('It went up by 0.003 kN')
})

it('begins no test of a reading that is clipped, and none for who may not', async () => {
  live.put({ clipped: true })
  await section(channel())
  expect(box.querySelector('button')!.disabled).toBe(true)
  await section(channel(), [])
  expect(box.querySelector('button')).toBeNull()
})

it('names the cores that turn it, or turns it here', async () => {
  const test = { at: '2026-11-26T10:00:00Z', old: false, passed: false, moved: -5 }
  const sign = { ...channel().sign, swap: 'white and green, pins 3 and 4', test }
  await section(channel({ sign }))
  expect(box.textContent).toContain('goes the wrong way')
  expect(box.textContent).toContain('Swap white and green, pins 3 and 4, or turn it here.')
  await pressed(box, 'Its cores are swapped')
  expect(changeScaling).toHaveBeenCalledWith(1, { polarity: 'cores swapped' })
  await pressed(box, 'Turn F')
  expect(changeScaling).toHaveBeenCalledWith(1, { polarity: 'turned' })
})
