import { QueryClientProvider } from '@tanstack/react-query'
import { act } from 'react'
import { beforeEach, expect, it, vi } from 'vitest'

import type { Channel } from '../../api/client'
import { changeScaling } from '../../api/deeds'
import { queryClient, sessionQuery } from '../../api/queries'
import { render, type } from '../../ui/testing'
import { channel, quarter, UNITS } from '../../ui/testing-data'
import { learnUnits } from '../../ui/units'
import { shuntError } from './figures'
import { ScalingPanel } from './ScalingPanel'

vi.mock('../../api/deeds', () => ({
  changeScaling: vi.fn(async () => {}),
  changeChannel: vi.fn(),
  shuntCheck: vi.fn(),
  undo: vi.fn(),
  zero: vi.fn(),
}))

beforeEach(() => {
  learnUnits(UNITS)
  vi.mocked(changeScaling).mockClear()
  queryClient.clear()
})

async function panel(of: Channel, may: string[]) {
  const person = { username: 'x', name: 'X', role: 'engineer', may }
  queryClient.setQueryData(sessionQuery.queryKey, person)
  return render(
    <QueryClientProvider client={queryClient}>
      <ScalingPanel channel={of} setupId={1} />
    </QueryClientProvider>,
  )
}
const field = (box: HTMLElement, label: string) =>
  [...box.querySelectorAll('label')]
    .find((l) => l.textContent === label)!
    .parentElement!.querySelector('input')!

it('shows capacity in the display unit and saves it in SI', async () => {
  const box = await panel(channel(), ['change scaling'])
  expect(field(box, 'Capacity').value).toBe('25.000')
  await type(field(box, 'Capacity'), '20', 'Enter')
  expect(changeScaling).toHaveBeenCalledWith(1, {
    scaling: { kind: 'rated_output', rated_output: 2e-3, capacity: 20_000 },
  })
})

it('saves a gauge factor as it is', async () => {
  const box = await panel(quarter(), ['change scaling'])
  await type(field(box, 'Gauge factor'), '2.1', 'Enter')
  expect(changeScaling).toHaveBeenCalledWith(3, {
    scaling: { kind: 'gauge', gauge_factor: 2.1, poisson_ratio: 0.3 },
  })
})

it('goes over to two points on the line in force', async () => {
  const box = await panel(channel(), ['change scaling'])
  const twoPoints = [...box.querySelectorAll<HTMLElement>('[role=radio]')].at(-1)!
  await act(async () => twoPoints.click())
  expect(changeScaling).toHaveBeenCalledWith(1, {
    scaling: { kind: 'two_points', signal_1: 0, value_1: 0, signal_2: 1e-3, value_2: 12_500 },
  })
})

it('lets nobody change scaling who may not', async () => {
  const box = await panel(channel(), [])
  expect(field(box, 'Capacity').disabled).toBe(true)
  expect(box.textContent).toContain('Only an engineer changes scaling.')
})

it('gives the shunt error in per cent, or none', () => {
  expect(shuntError(channel({ shunt_measured_mv_v: 0.8716 }))).toBeCloseTo(-0.2175, 3)
  expect(shuntError(channel({ shunt_measured_mv_v: null }))).toBeNull()
  expect(shuntError(channel({ shunt_expected_mv_v: 0 }))).toBeNull()
})
